// Which drawings the team page looks at, as its address has it.
export type Ask = { guide?: string; delivery?: string; shot?: string; from?: string; to?: string; by?: 'artist' | 'brush' | 'tablet' };
const KEYS = ['guide', 'delivery', 'shot', 'from', 'to', 'by'] as const;

export function askOf(search: URLSearchParams): Ask {
  return Object.fromEntries(KEYS.map((k) => [k, search.get(k)] as const).filter((e) => e[1])) as Ask;
}
