/** What a picture may take while the view moves, lines and all, and how many points that is at first; then as measured. */
const MOVING_MS = 44;
const MOVING_POINTS = { first: 260_000, least: 60_000, most: 3_000_000 };

/** How many points a picture has while the view moves: fewer or more by what the one before took. */
export class MovingBudget {
  points = MOVING_POINTS.first;

  reset(): void {
    this.points = MOVING_POINTS.first;
  }

  learn(milliseconds: number): void {
    const wanted = this.points * Math.max(0.6, Math.min(1.25, MOVING_MS / milliseconds));
    this.points = Math.max(MOVING_POINTS.least, Math.min(MOVING_POINTS.most, wanted));
  }
}
