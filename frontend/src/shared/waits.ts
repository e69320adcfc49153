/** About how long it still takes, as one would say it. */
export function waitText(seconds: number): string {
  if (seconds < 1.5) return 'a second left';
  if (seconds < 90) return `about ${Math.round(seconds)} s left`;
  return `about ${Math.round(seconds / 60)} min left`;
}
