// What was done last on a delivery, with its undo.
export function Told({ says, onUndo, onDismiss }: { says: string | null; onUndo: () => void; onDismiss: () => void }) {
  if (!says) return null;
  return (
    <div className="notice d-flex gap-3" role="status">
      {says}
      <button type="button" className="btn-word" title="Ctrl Z" onClick={onUndo}>
        Undo
      </button>
      <button type="button" className="btn-word" onClick={onDismiss}>
        Dismiss message
      </button>
    </div>
  );
}
