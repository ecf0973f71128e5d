/** Wires among them are the ends of spans, too short to run as lines, that hang on a pole. */
export const SMALL_OBJECT = { none: 0, pole: 1, fence: 2, vehicle: 3, wire: 4 } as const;

/** What is lower than this, metres, is no thing of its own; common practice, no source. */
export const STANDS_FROM = 0.6;
