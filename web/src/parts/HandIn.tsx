// Handing in the next take of a drawing: a file chosen or dropped, with a note, looked at before it goes.
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { type Schemas, sendFiles } from '../api/client';
import { useOpen } from '../session';
import { Problem } from './states';

type Props = {
  drawing: { id: string; file: string };
  /** It was handed in as this. */
  onDone?: (taken: Schemas['FileTaken']) => void;
  /** Makes the file, where the page itself has it. */
  make?: () => Promise<File>;
  children?: React.ReactNode;
};

export function HandIn({ drawing, onDone, make, children }: Props) {
  const { production } = useOpen();
  const client = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const [busy, setBusy] = useState(false);
  const [done, setDone] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const choose = (f: File | undefined) => {
    if (!f) return;
    setError(null);
    setDone(false);
    setFile(f);
  };
  const drop = useDropzone({ multiple: false, noClick: true, noKeyboard: true, onDrop: ([f]) => choose(f) });
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    if (!file || !/^image\/(png|jpeg|svg)/.test(file.type)) return setUrl(null);
    const made = URL.createObjectURL(file);
    setUrl(made);
    return () => URL.revokeObjectURL(made);
  }, [file]);
  const send = async (note: string) => {
    if (!file) return;
    setBusy(true);
    setError(null);
    try {
      const taken = await sendFiles<Schemas['FileTaken']>(`/api/v1/productions/${production.id}/drawings/${drawing.id}/takes`, [file], { note });
      setFile(null);
      setDone(true);
      onDone?.(taken);
      await client.invalidateQueries();
    } catch (e) {
      setError(e);
    }
    setBusy(false);
  };
  return (
    <div {...drop.getRootProps({ className: `hand-in ${drop.isDragActive ? 'over' : ''}` })} role="group" aria-label={`next take of ${drawing.file}`}>
      <input {...drop.getInputProps()} aria-label={`file for ${drawing.file}`} />
      {children}
      <Problem error={error} />
      {file ? (
        <form
          className="tight"
          onSubmit={(e) => {
            e.preventDefault();
            void send(String(new FormData(e.currentTarget).get('note') ?? ''));
          }}
        >
          {url && <img src={url} alt="what is handed in" style={{ width: '100%', maxHeight: 120, objectFit: 'contain', background: '#fff' }} />}
          <div className="text-break">
            {file.name} for {drawing.file}
          </div>
          <input className="form-control form-control-sm my-1" name="note" maxLength={1000} aria-label="note with the take" placeholder="a note, if you like" />
          <div className="d-flex gap-2">
            <button type="submit" className="btn btn-paper btn-sm" disabled={busy}>
              {busy ? 'Handing in…' : 'Hand in take'}
            </button>
            <button type="button" className="btn-word" onClick={() => setFile(null)}>
              Cancel
            </button>
          </div>
        </form>
      ) : done ? (
        <span role="status">Handed in: it is being checked.</span>
      ) : (
        <button
          type="button"
          className="btn btn-paper btn-sm"
          title="a file chosen here or dropped here becomes the next take"
          disabled={busy}
          onClick={async () => {
            if (!make) return drop.open();
            setBusy(true);
            try {
              choose(await make());
            } catch (e) {
              setError(e);
            }
            setBusy(false);
          }}
        >
          Hand in…
        </button>
      )}
    </div>
  );
}
