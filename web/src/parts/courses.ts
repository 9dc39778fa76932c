// Pressure along a line by its named shapes.
export const COURSES = [
  ['even', 'even: one weight'],
  ['swell', 'swell: full in the middle'],
  ['rise', 'rise: full at the end'],
  ['fall', 'fall: full at the start'],
] as const;
