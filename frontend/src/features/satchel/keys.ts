/** Query keys of a bench. dependencies: all values on which the answer depends. */
export const benchKeys = {
  satchel: (id: string) => ['satchel', id] as const,
  fit: (id: string, dependencies: unknown) => ['fit', id, dependencies] as const,
  sheet: (id: string, dependencies: unknown) => ['sheet', id, dependencies] as const,
  allLinks: ['links'] as const,
  links: (id: string) => ['links', id] as const,
  rasters: (id: string) => ['rasters', id] as const,
  returned: (id: string) => ['returned', id] as const,
};
