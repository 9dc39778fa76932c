// Where the pins of findings and their labels stand: off the line, away from the middle, inside what is seen, and none over another.

export type Box = { x: number; y: number; width: number; height: number };
type Point = { x: number; y: number };

/** Tried one after the other: turned by so many degrees from straight away, and so many times as far. */
const TURNS = [0, 30, -30, 60, -60, 90, -90, 120, -120, 150, -150, 180];
const FAR = [1, 1.5, 2, 2.6, 3.3, 4];

/**
 * Places for pins at findings, in the order given, `k` px of the drawing being one of the screen: each keeps `apart` of `k` from every other and
 * from the points in `taken`. Where there is no room a pin stands where it would stand alone.
 */
export function pinPlaces(at: Point[], seen: Box, middle: Point, k: number, taken: Point[] = [], apart = 24): Point[] {
  const put: Point[] = [...taken];
  const edge = 14 * k;
  const within = (p: Point) => ({
    x: Math.min(seen.x + seen.width - edge, Math.max(seen.x + edge, p.x)),
    y: Math.min(seen.y + seen.height - edge, Math.max(seen.y + edge, p.y)),
  });
  return at.map((f) => {
    const away = Math.atan2(f.y - middle.y, f.x - middle.x);
    const tried = FAR.flatMap((far) =>
      TURNS.map((turn) => {
        const way = away + (turn * Math.PI) / 180;
        return within({ x: f.x + 50 * k * far * Math.cos(way), y: f.y + 46 * k * far * Math.sin(way) });
      }),
    );
    const free = (p: Point) => put.every((q) => Math.hypot(p.x - q.x, p.y - q.y) >= apart * k) && Math.hypot(p.x - f.x, p.y - f.y) >= 0.8 * apart * k;
    const place = tried.find(free) ?? (tried[0] as Point);
    put.push(place);
    return place;
  });
}

/** Labels whose text would run over one that is already there are left out: how many characters each has, and where it begins. */
export function labelsShown(labels: { x: number; y: number; says: string }[], k: number): boolean[] {
  const kept: Box[] = [];
  return labels.map(({ x, y, says }) => {
    const box = { x, y: y - 12 * k, width: 6.4 * k * says.length, height: 15 * k };
    const over = kept.some((b) => box.x < b.x + b.width && b.x < box.x + box.width && box.y < b.y + b.height && b.y < box.y + box.height);
    if (!over) kept.push(box);
    return !over;
  });
}
