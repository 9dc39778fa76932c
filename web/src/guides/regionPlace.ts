// Where a region lies on the guide's page, in words.

/** Its box: size, and how far from the page's corner. */
export function regionPlace(points: number[][]): string {
  const [xs, ys] = [points.map((p) => p[0] ?? 0), points.map((p) => p[1] ?? 0)];
  const [x, y] = [Math.min(...xs), Math.min(...ys)];
  const px = (v: number) => v.toFixed(0);
  return `${px(Math.max(...xs) - x)}×${px(Math.max(...ys) - y)} px, ${px(x)} from the left, ${px(y)} from the top${points.length === 4 ? '' : ', drawn round'}`;
}
