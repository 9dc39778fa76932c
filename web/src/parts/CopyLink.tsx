// A link that is shown once, to be sent to somebody.
import { useState } from 'react';

export function CopyLink({ link, label, says }: { link: string; label: string; says: string }) {
  const [copied, setCopied] = useState(false);
  const whole = `${window.location.origin}${link}`;
  return (
    <>
      <div>{says}</div>
      <div className="d-flex gap-2 align-items-center mt-1">
        <input readOnly className="form-control form-control-sm" aria-label={label} value={whole} onFocus={(e) => e.target.select()} />
        <button
          type="button"
          className="btn btn-sm btn-paper text-nowrap"
          onClick={() =>
            navigator.clipboard?.writeText(whole).then(
              () => setCopied(true),
              () => setCopied(false),
            )
          }
        >
          {copied ? 'Copied' : 'Copy link'}
        </button>
      </div>
    </>
  );
}
