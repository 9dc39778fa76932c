// What the parts of the pairs' page share: how pressure and ink come together, and the scan of the page.

export type Way = 'over' | 'paper';

/** A scan that the server has. */
export type PageScan = { sha256: string; dpi: number; width_px: number; height_px: number; name: string };
