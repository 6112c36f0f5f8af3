import type { Right } from '@/shared/api/types'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'

interface Place {
  /** The name of its route. */
  name: string
  title: string
  right?: Right
}

/** What stands beside the path of the work, in groups: each shows to whom it is open. */
export function places(): { key: string; title: string; entries: Place[] }[] {
  const all: { key: string; title: string; entries: Place[] }[] = [
    {
      key: 'library',
      title: text.layout.library,
      entries: [
        { name: 'references', title: text.references.title },
        { name: 'extractions', title: text.extraction.title, right: 'write_studies' },
        { name: 'structures', title: text.vocabulary.title },
        { name: 'conflicts', title: text.conflicts.title },
        { name: 'guide', title: text.guide.title },
      ],
    },
    {
      key: 'administration',
      title: text.layout.administration,
      entries: [
        { name: 'exchange', title: text.exchange.title, right: 'read_drafts' },
        { name: 'table-import', title: text.tableImport.title, right: 'write_studies' },
        { name: 'people', title: text.people.title, right: 'manage_accounts' },
      ],
    },
  ]
  return all
    .map((group) => ({ ...group, entries: group.entries.filter(({ right }) => !right || may(right)) }))
    .filter(({ entries }) => entries.length)
}
