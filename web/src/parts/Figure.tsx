// A number that is typed, taken when it is left or Enter is pressed; what is no number changes nothing.

export function Figure({
  value,
  digits,
  label,
  onValue,
  disabled,
  width = 62,
}: {
  value: number;
  digits: number;
  label: string;
  onValue: (v: number) => void;
  disabled?: boolean;
  width?: number;
}) {
  const text = value.toFixed(digits);
  return (
    <input
      key={text}
      className="figure"
      style={{ width }}
      defaultValue={text}
      aria-label={label}
      inputMode="decimal"
      disabled={disabled}
      onBlur={(e) => {
        const typed = e.target.value.trim().replace(',', '.');
        const v = Number(typed);
        if (typed && Number.isFinite(v) && v.toFixed(digits) !== text) onValue(v);
        else e.target.value = text;
      }}
      onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
    />
  );
}
