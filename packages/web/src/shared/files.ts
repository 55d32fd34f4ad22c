/** The first file of what a field gives, which is one, several or none; undefined where it gives none. */
export function firstFile(chosen: File | File[] | null): File | undefined {
  return [chosen ?? []].flat()[0]
}
