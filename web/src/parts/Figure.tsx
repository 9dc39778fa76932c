// A number that is typed, taken when it is left or Enter is pressed. What cannot be taken stays where it was typed and says why; Escape
// puts back what was there.
import { useId, useState } from 'react';

type Props = {
  value: number;
  digits: number;
  label: string;
  onValue: (v: number) => void;
  disabled?: boolean;
  width?: number;
  /** The least and the greatest that it may be. */
  range?: [number, number];
};

export function Figure({ value, digits, label, onValue, disabled, width = 62, range }: Props) {
  const text = value.toFixed(digits);
  const says = useId();
  const [wrong, setWrong] = useState('');
  const [least, most] = range ?? [Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY];
  return (
    <>
      <input
        key={text}
        className={wrong ? 'figure is-wrong' : 'figure'}
        style={{ width }}
        defaultValue={text}
        aria-label={label}
        aria-invalid={!!wrong || undefined}
        aria-describedby={wrong ? says : undefined}
        inputMode="decimal"
        disabled={disabled}
        onBlur={(e) => {
          const typed = e.target.value.trim().replace(',', '.').replace('−', '-');
          const v = Number(typed);
          if (!typed) e.target.value = text;
          else if (!Number.isFinite(v)) return setWrong('type a number');
          else if (v < least || v > most) return setWrong(Number.isFinite(most) ? `${least} to ${most.toLocaleString('en')}` : `${least} or more`);
          else if (v.toFixed(digits) !== text) onValue(v);
          else e.target.value = text;
          setWrong('');
        }}
        onKeyDown={(e) => {
          if (e.key === 'Enter') e.currentTarget.blur();
          if (e.key === 'Escape') {
            e.currentTarget.value = text;
            setWrong('');
          }
        }}
      />
      {wrong && (
        <span id={says} role="alert" className="figure-wrong">
          {wrong}
        </span>
      )}
    </>
  );
}
