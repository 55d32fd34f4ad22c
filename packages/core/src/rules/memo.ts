import type { JudgedDevice } from './judged.ts'

/**
 * Works something out once for a device, and keeps it with the device.
 * @param kind what it is, as an object of its own: the function that makes it
 */
export function memoOf<T>(device: JudgedDevice, kind: object, make: () => T): T {
  let found = device.memo.get(kind) as T | undefined
  if (found === undefined) device.memo.set(kind, (found = make()))
  return found
}
