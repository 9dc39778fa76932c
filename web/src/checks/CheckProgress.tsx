// How far a delivery's check is, stopped and resumed.
type Props = {
  progress: { waiting: number; done: number; failed: number } | null;
  stopped: boolean;
  /** So many drawings wait. */
  held: number;
  may: boolean;
  onStop: () => void;
  onGo: () => void;
};

export function CheckProgress({ progress, stopped, held, may, onStop, onGo }: Props) {
  const ended = progress ? progress.done + progress.failed : 0;
  const total = progress ? progress.waiting + ended : 0;
  if (!stopped && !progress?.waiting) return null;
  return (
    <div className="card-plain mb-2 d-flex gap-3 align-items-center" role="status">
      <span className="tight text-nowrap">
        {stopped ? `Stopped: ${held === 1 ? '1 drawing waits' : `${held} drawings wait`}` : `${ended} of ${total} measured, ${progress?.waiting} left`}
      </span>
      {!stopped && <progress value={ended} max={total || 1} style={{ flex: 1 }} />}
      {may && (
        <button type="button" className="btn-word" onClick={stopped ? onGo : onStop}>
          {stopped ? 'Resume check' : 'Stop check'}
        </button>
      )}
    </div>
  );
}
