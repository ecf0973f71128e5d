/** How the command ends, for scripts. */
export const EXIT = {
  done: 0,
  /** Something went wrong on the way; what was done before is kept. */
  failed: 1,
  /** What was asked for cannot be: a word not known, a file that is not there. */
  misused: 2,
  /** A run waits at a gate. */
  waiting: 3,
  /** `check` found something. */
  faulty: 4,
  /** Ended by Ctrl+C. */
  interrupted: 130,
} as const;

/** Something that was asked for wrongly. */
export class Misuse extends Error {}
