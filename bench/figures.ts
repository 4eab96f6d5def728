export function median(values: number[]): number {
  return percentile(
    [...values].sort((a, b) => a - b),
    0.5,
  );
}

/** The value below which the share `p` of the sorted values lies. */
export function percentile(sorted: number[], p: number): number {
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * p))] ?? NaN;
}

/** One figure, with what it is held against in the same run. */
export function print(what: string, value: number, beside: string): void {
  console.log(`${what.padEnd(58)} ${value.toFixed(value < 100 ? 2 : 0).padStart(9)}   ${beside}`);
}
