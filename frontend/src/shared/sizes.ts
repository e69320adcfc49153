/** Sizes in kB and MB of 1000 bytes (IEC 80000-13). */
export function sizeText(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  if (bytes < 999_500) return `${trim(bytes / 1000)} kB`;
  if (bytes < 999_500_000) return `${trim(bytes / 1_000_000)} MB`;
  return `${(bytes / 1_000_000_000).toFixed(2)} GB`;
}

/** Two figures that matter for small numbers, whole ones from a hundred on. */
function trim(value: number): string {
  return value < 99.95 ? value.toFixed(1) : value.toFixed(0);
}

/** "-80 %", with the sign typographers use; "0 %" where nothing comes off. */
export function changeText(before: number, after: number): string {
  if (before === 0) return '0 %';
  const percent = Math.round((after / before - 1) * 100);
  if (percent === 0 && after < before) return 'hardly lighter';
  if (percent === -100 && after > 0) return '−99.9 %';
  return `${percent < 0 ? '−' : ''}${Math.abs(percent)} %`;
}

export function countText(count: number, one: string, many = `${one}s`): string {
  return `${count.toLocaleString('en-GB')} ${count === 1 ? one : many}`;
}

/** "pages 3, 4, 9 and 12 more". */
export function pagesText(pages: number[], shown = 4): string {
  if (pages.length === 0) return 'on no page';
  const listed = pages.slice(0, shown).join(', ');
  const rest = pages.length - shown;
  const word = pages.length === 1 ? 'page' : 'pages';
  return rest > 0 ? `${word} ${listed} and ${rest} more` : `${word} ${listed}`;
}
