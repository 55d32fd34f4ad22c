/** The first file of what a field gives, which is one, several or none; undefined where it gives none. */
export function firstFile(chosen: File | File[] | null): File | undefined {
  return [chosen ?? []].flat()[0]
}

/** Hands a file to the person. */
export function saveFile(name: string, file: Blob): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(file)
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}
