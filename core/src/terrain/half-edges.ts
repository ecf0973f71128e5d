/** The side after this one in its facet: half-edges 3f, 3f + 1 and 3f + 2 go round facet f. */
export const nextSide = (h: number): number => (h % 3 === 2 ? h - 2 : h + 1);

/** The side before it. */
export const previousSide = (h: number): number => (h % 3 === 0 ? h + 2 : h - 1);
