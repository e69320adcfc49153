/** A title that nothing of its kind has yet. */
export function freeTitle(title: string, taken: string[]): string {
  const first = `${title}, copy`;
  let number = 2;
  let free = first;
  while (taken.includes(free)) {
    free = `${first} ${number}`;
    number += 1;
  }
  return free;
}
