interface Checklist {
  endings?: string[];
  most_pages?: number | null;
  needs_pdf_a?: boolean;
  names?: { no_spaces?: boolean; ascii_only?: boolean; most_letters?: number | null };
}

/** The points of a checklist; empty without one. */
export function pointsOf(checklist: Checklist | null): string[] {
  if (!checklist) return [];
  const { endings, most_pages, needs_pdf_a, names } = checklist;
  const points: string[] = [];
  if (endings && endings.length > 0) {
    points.push(`kinds: ${endings.map((ending) => ending.slice(1)).join(', ')}`);
  }
  if (most_pages) points.push(`at most ${most_pages} ${most_pages === 1 ? 'page' : 'pages'}`);
  if (needs_pdf_a) points.push('PDF/A');
  const rules = [
    names?.no_spaces && 'no spaces',
    names?.ascii_only && 'plain letters only',
    names?.most_letters && `at most ${names.most_letters} letters`,
  ].filter(Boolean);
  if (rules.length > 0) points.push(`names: ${rules.join(', ')}`);
  return points;
}

/** "pdf, .TIF" as the endings that are stored. */
export function endingsOf(text: string): string[] {
  const words = text
    .toLowerCase()
    .split(/[\s,;]+/)
    .filter(Boolean);
  return [...new Set(words.map((word) => `.${word.replace(/^\.+/, '')}`))];
}
