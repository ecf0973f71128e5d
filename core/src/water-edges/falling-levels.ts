/**
 * Levels that only fall, nearest to the given ones by weighted least squares: those that rise are put together with the ones before them
 * until none does (pool adjacent violators; Ayer et al. 1955, Annals of Mathematical Statistics 26, 641-647).
 * @param level - in the order of the water's way
 * @param weight - how many points stand behind each
 */
export function fallingLevels(level: readonly number[], weight: readonly number[]): number[] {
  const pools: { sum: number; weight: number; count: number }[] = [];
  level.forEach((z, k) => {
    pools.push({ sum: z * weight[k]!, weight: weight[k]!, count: 1 });
    for (;;) {
      const [before, last] = [pools.at(-2), pools.at(-1)!];
      if (!before || before.sum / before.weight >= last.sum / last.weight) break;
      pools.pop();
      before.sum += last.sum;
      before.weight += last.weight;
      before.count += last.count;
    }
  });
  return pools.flatMap(({ sum, weight: of, count }) => Array.from({ length: count }, () => sum / of));
}
