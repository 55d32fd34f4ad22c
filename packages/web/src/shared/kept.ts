/** Values of one tab that survive a reload: work that nobody saved yet. */
export function keptIn<T>(key: string): { read(): T | null; write(value: T | null): void } {
  return {
    read() {
      try {
        const text = sessionStorage.getItem(key)
        return text === null ? null : (JSON.parse(text) as T)
      } catch {
        // Not readable, or written by another version: as if nothing were there.
        return null
      }
    },
    write(value) {
      try {
        if (value === null) sessionStorage.removeItem(key)
        else sessionStorage.setItem(key, JSON.stringify(value))
      } catch {
        // Larger than the browser allows: it is kept in this page alone.
      }
    },
  }
}
