/** A cloud as the views know it. */
export interface CloudInSight {
  readonly id: number;
  /** The same for a cloud and for what is seen of it while it comes in. */
  readonly source: string;
  readonly isComingIn: boolean;
}

/**
 * Remembers which land the views were set on. What was seen coming in and is there now is no news: who has zoomed in meanwhile
 * stays there. What is gone is forgotten, so that it is news when it comes again.
 */
export class NewLand {
  /** Numbers of clouds, and the files of those coming in. */
  private framed = new Set<string>();

  /** Nothing was ever in sight, or all of it is gone. */
  get isEmpty(): boolean {
    return this.framed.size === 0;
  }

  /** Whether there is land that the views were not set on yet; from now on they count as set on all of it. */
  take(clouds: readonly CloudInSight[]): boolean {
    const seen = new Map(clouds.map(({ id, source, isComingIn }) => [isComingIn ? source : String(id), source]));
    const isNew = [...seen].some(([key, source]) => !this.framed.has(key) && !this.framed.has(source));
    this.framed = new Set(seen.keys());
    return isNew;
  }
}
