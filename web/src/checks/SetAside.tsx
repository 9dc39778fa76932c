// What of a delivery is removed, or marked as no drawing: one line that opens, each with its way back.
import type { Schemas } from '../api/client';
import { day } from '../parts/states';

type Props = { of: Schemas['AsideView'][]; may: boolean; onRestore: (id: string, file: string) => void };

export function SetAside({ of, may, onRestore }: Props) {
  if (!of.length) return null;
  const none = of.filter((a) => a.why === 'no-drawing').length;
  const gone = of.length - none;
  const says = [
    none && (none === 1 ? '1 file is no drawing' : `${none} files are no drawings`),
    gone && (gone === 1 ? '1 drawing was removed' : `${gone} drawings were removed`),
  ];
  return (
    <details className="tight soft my-1">
      <summary>{says.filter(Boolean).join(' · ')}: not in any count</summary>
      {of.map((a) => (
        <div key={a.id}>
          {a.file}: {a.why === 'removed' ? 'removed' : 'no drawing'}, {a.by}, {day(a.at)}{' '}
          {may && (
            <button type="button" className="btn-word" onClick={() => onRestore(a.id, a.file)}>
              Restore {a.file.replace(/^.*[/\\]/, '')}
            </button>
          )}
        </div>
      ))}
    </details>
  );
}
