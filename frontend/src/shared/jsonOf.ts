/** Read a JSON file. Throws with its name and the mistake. */
export async function jsonOf(file: File): Promise<unknown> {
  const text = await file.text();
  try {
    return JSON.parse(text);
  } catch (error) {
    const reason = error instanceof Error ? error.message : '';
    throw new Error(`${file.name}: is not JSON (${reason}). Export it again.`, { cause: error });
  }
}
