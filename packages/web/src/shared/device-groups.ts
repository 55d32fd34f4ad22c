import { t } from '../messages/index.ts'
import type { DeviceRow } from '@jurybox/api/devices'

type Facts = DeviceRow['facts']

/**
 * Ways in which devices can be put together: by site, role, maker's system and model, and by each label that some
 * device has.
 */
export function waysToGroup(devices: readonly { readonly facts: Facts }[]): { value: string; title: string }[] {
  const labels = [...new Set(devices.flatMap(({ facts }) => Object.keys(facts.labels ?? {})))].sort()
  const facts = (['site', 'role', 'os', 'model'] as const).filter((name) =>
    devices.some((device) => device.facts[name] !== undefined),
  )
  const titles = {
    site: t('shared.site'),
    role: t('common.role'),
    os: t('shared.operatingSystem'),
    model: t('common.model'),
  }
  return [
    ...facts.map((name) => ({ value: name, title: titles[name] })),
    ...labels.map((name) => ({ value: `label ${name}`, title: t('shared.label', { name }) })),
  ]
}

/** The group of a device in one of these ways. */
export function groupOf(facts: Facts, way: string): string {
  const value = way.startsWith('label ')
    ? facts.labels?.[way.slice('label '.length)]
    : facts[way as 'site' | 'role' | 'os' | 'model']
  return value === undefined || value === null || value === '' ? t('shared.notStated') : String(value)
}

/** The devices of each group, the groups in their own order. */
export function grouped<T extends { readonly facts: Facts }>(
  devices: readonly T[],
  way: string,
): { title: string; devices: T[] }[] {
  const groups = new Map<string, T[]>()
  for (const device of devices) {
    const key = groupOf(device.facts, way)
    groups.set(key, [...(groups.get(key) ?? []), device])
  }
  return [...groups].sort(([a], [b]) => (a < b ? -1 : 1)).map(([title, some]) => ({ title, devices: some }))
}
