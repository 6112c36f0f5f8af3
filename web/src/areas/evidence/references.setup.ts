import type { ReferenceView } from '@/shared/api/types'

/** A reference as the API answers it. */
export function reference(id: string, changes: Partial<ReferenceView> = {}): ReferenceView {
  return {
    id,
    version: 1,
    sample: false,
    label: `Quellan ${id}`,
    kind: 'journal_article',
    title: `Held flexion ${id}`,
    authors: [{ family: 'Quellan', given: 'A.' }],
    year: 2019,
    container: 'Sample Journal',
    volume: '12',
    issue: '3',
    pages: '481-485',
    publisher: '',
    doi: '',
    pmid: '',
    url: '',
    citation: `Quellan A. Held flexion ${id}. Sample Journal. 2019;12(3):481-485.`,
    studies: 0,
    ...changes,
  }
}
