import type { Region, TestRow } from '@/shared/api/types'
import { text } from '@/shared/text'
import type { Grouping } from './useLadderState'

export interface LadderGroup {
  key: string
  title: string
  /** The condition that all its tests are for. */
  condition: string | null
  region: Region | null
  rows: TestRow[]
}

const regions = Object.keys(text.regions)

/** Tests under their condition or region: the condition that is asked about first, regions from head to foot. */
export function ladderGroups(rows: TestRow[], by: Grouping, asked: string): LadderGroup[] {
  if (by === 'none') return [{ key: '', title: '', condition: null, region: null, rows }]
  const groups = new Map<string, LadderGroup>()
  for (const row of rows) {
    const condition = by === 'condition' ? row.condition : null
    const key = `${row.region}/${condition ?? ''}`
    const title = condition ?? text.regions[row.region]
    const group = groups.get(key) ?? { key, title, condition, region: row.region, rows: [] }
    group.rows.push(row)
    groups.set(key, group)
  }
  const place = (group: LadderGroup) =>
    (group.condition === asked ? 0 : 1000) + regions.indexOf(group.region ?? '')
  return [...groups.values()].sort((a, b) => place(a) - place(b) || a.title.localeCompare(b.title))
}
