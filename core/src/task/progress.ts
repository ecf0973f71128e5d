/** Called by long work with the share done, 0 to 1, never falling. */
export type Progress = (share: number) => void;

/** For callers that do not watch. */
export const noProgress: Progress = () => undefined;
