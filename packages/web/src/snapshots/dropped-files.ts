/** A file with its path within what was dropped. */
export interface DroppedFile {
  readonly path: string
  readonly file: Blob
}

/** All files of a drop, folders with everything in them. */
export async function filesOfDrop(transfer: DataTransfer): Promise<DroppedFile[]> {
  const entries = [...transfer.items].map((item) => item.webkitGetAsEntry()).filter((entry) => entry !== null)
  if (entries.length === 0) return [...transfer.files].map((file) => ({ path: file.name, file }))
  return (await Promise.all(entries.map((entry) => filesOf(entry)))).flat()
}

async function filesOf(entry: FileSystemEntry): Promise<DroppedFile[]> {
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject))
    return [{ path: entry.fullPath.replace(/^\//, ''), file }]
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader()
  const inside: FileSystemEntry[] = []
  // A directory is handed out a part at a time; an empty part is the end.
  for (;;) {
    const part = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject))
    if (part.length === 0) break
    inside.push(...part)
  }
  return (await Promise.all(inside.map((child) => filesOf(child)))).flat()
}
