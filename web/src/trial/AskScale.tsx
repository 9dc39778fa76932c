// A rough without a resolution in its file: whether it stands for the guide's page, or at what resolution it was made.
import { useState } from 'react';
import { Button } from 'react-bootstrap';
import type { Schemas } from '../api/client';
import { Figure } from '../parts/Figure';

type Props = {
  rough: Schemas['RoughView'];
  page: Schemas['LineGuide']['page'] | undefined;
  name: string | undefined;
  busy: boolean;
  onScale: (pxPerMm: number) => void;
  onCancel: () => void;
};

export function AskScale({ rough, page, name, busy, onScale, onCancel }: Props) {
  const [dpi, setDpi] = useState(300);
  // As many mm wide as the guide's page, at the rough's own pixels.
  const stands = page?.px_per_mm ? (page.px_per_mm * rough.width_px) / page.width_px : null;
  const same = page && Math.abs((rough.width_px / rough.height_px) * (page.height_px / page.width_px) - 1) < 0.02;
  return (
    <div className="notice d-block" role="group" aria-label="resolution of the rough">
      <p className="mb-2">
        This rough ({rough.width_px} × {rough.height_px} px) has no resolution in its file, so how wide a brush’s line is on it is not known. What is it?
      </p>
      <div className="d-flex gap-3 align-items-center flex-wrap">
        {page && stands && (
          <Button size="sm" disabled={busy} onClick={() => onScale(stands)}>
            Use the page of {name} ({stands.toFixed(2)} px to the mm)
          </Button>
        )}
        <span>
          <Figure value={dpi} digits={0} label="resolution of the rough in dpi" range={[5, 5000]} onValue={setDpi} /> dpi{' '}
          <Button size="sm" variant="paper" disabled={busy} onClick={() => onScale(dpi / 25.4)}>
            Use this resolution
          </Button>
        </span>
        <button type="button" className="btn-word" onClick={onCancel}>
          Cancel
        </button>
      </div>
      {page && stands && !same && <div className="tight mt-1">Its proportions are not the guide’s page’s: as wide as the page, it is not as high.</div>}
    </div>
  );
}
