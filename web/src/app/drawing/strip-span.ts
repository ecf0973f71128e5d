/** A strip that was found by its times, with the colour it has everywhere. */
export interface StripSpan {
  readonly name: string;
  /** In the times of the cloud, both ends within. */
  readonly from: number;
  readonly to: number;
  readonly colour: string;
}
