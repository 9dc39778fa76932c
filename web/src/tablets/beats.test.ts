import { describe, expect, it } from 'vitest';
import { BAR, beatAt, LEAST, MOST } from './beats';

describe('beats', () => {
  it('go round the bar at so many a minute, whenever they are asked', () => {
    for (const perMinute of [LEAST, 47, 60, 133, MOST])
      for (let ms = 0; ms < 20_000; ms += 97) {
        const { beat, left } = beatAt(ms, perMinute);
        const each = 60_000 / perMinute;
        expect(beat).toBe(Math.floor(ms / each) % BAR);
        expect(left).toBeGreaterThan(0);
        expect(left).toBeLessThanOrEqual(each + 1e-9);
        // The next one begins when this one has ended.
        expect(beatAt(ms + left + 1e-6, perMinute).beat).toBe((beat + 1) % BAR);
      }
  });
  it('are none too slow or too fast to draw to', () => {
    expect(beatAt(0, 0).left).toBe(60_000 / LEAST);
    expect(beatAt(0, 9000).left).toBe(60_000 / MOST);
  });
});
