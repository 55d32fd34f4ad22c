/** Kinds of columns, by the name that each has in the database. */
import type { EntitySchemaColumnOptions } from 'typeorm'

export const id: EntitySchemaColumnOptions = { type: 'int', unsigned: true, primary: true, generated: 'increment' }
export const int = (name: string): EntitySchemaColumnOptions => ({ type: 'int', unsigned: true, name })
export const text = (name: string): EntitySchemaColumnOptions => ({ type: 'varchar', name })
export const json = (name: string): EntitySchemaColumnOptions => ({ type: 'simple-json', name })
export const time = (name: string, nullable = false): EntitySchemaColumnOptions => ({
  type: 'datetime',
  precision: 3,
  name,
  nullable,
})
export const key = (column: EntitySchemaColumnOptions): EntitySchemaColumnOptions => ({ ...column, primary: true })
export const flag = (name: string): EntitySchemaColumnOptions => ({ type: 'boolean', name, default: false })
