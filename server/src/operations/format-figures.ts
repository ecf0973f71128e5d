/** Thousands apart by a thin gap, as the whole product writes them: 1 512 904. */
export function formatCount(value: number): string {
  return Math.round(value)
    .toString()
    .replace(/\B(?=(\d{3})+$)/g, ' ');
}
