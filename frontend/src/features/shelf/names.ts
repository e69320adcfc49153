import type { FoundFile } from '../../shared/files';

/** A first name for a satchel: the folder that was brought, or the file, or the day. */
export function nameFor(files: FoundFile[], today: Date): string {
  const folder = files[0]?.folder.split('/')[0];
  if (folder) return folder.slice(0, 120);
  const [only, ...others] = files;
  if (only && others.length === 0) return only.file.name.replace(/\.[^.]+$/, '').slice(0, 120);
  const day = today.toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' });
  return `Papers of ${day}`;
}
