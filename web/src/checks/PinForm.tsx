// What is wrong at the place that was clicked: becomes a pin on the drawing.
import { focused } from '../parts/focused';

export function PinForm({ onPin, onCancel }: { onPin: (text: string) => Promise<void>; onCancel: () => void }) {
  return (
    <form
      className="px-3 py-2"
      style={{ borderTop: '1px solid var(--hairline)' }}
      onSubmit={(e) => {
        e.preventDefault();
        void onPin(String(new FormData(e.currentTarget).get('text') ?? ''));
      }}
    >
      <input className="form-control form-control-sm" name="text" ref={focused} aria-label="what is wrong there" placeholder="what is wrong there" />
      <div className="d-flex gap-2 mt-1">
        <button type="submit" className="btn btn-paper btn-sm">
          Add pin
        </button>
        <button type="button" className="btn-word" onClick={onCancel}>
          Cancel
        </button>
      </div>
    </form>
  );
}
