import { joints, motions, tissues } from '@/areas/catalogue/sheetWords'
import { shownCells } from '@/areas/evidence/pastedCells'
import { setupWords } from '@/areas/evidence/setupWords'
import type {
  AgreementInput,
  Change,
  Condition,
  FiguresInput,
  Region,
  Structure,
  Study,
} from '@/shared/api/types'
import { percent } from '@/shared/format'
import { text } from '@/shared/text'

/** What a record says, field by field, in words. */
function said(kind: Change['kind'], content: unknown): [label: string, words: string][] {
  if (kind === 'study') {
    const study = content as Study
    const cells = Object.entries(text.study.cells).map(([cell, label]) => {
      const count = study.counts[cell as keyof typeof text.study.cells]
      return [label, typeof count === 'number' ? String(count) : ''] as [string, string]
    })
    return [
      [text.study.reference, study.reference],
      [text.study.population, study.population],
      [text.setup.title, setupWords(study.setup).join(' · ')],
      [text.study.standard, study.reference_standard],
      ...cells,
      [text.study.note, study.note ?? ''],
    ]
  }
  if (kind === 'agreement') {
    const { reference, between, finding, examiners, interval, population, note, figures } =
      content as AgreementInput
    const words = text.agreement
    return [
      [text.study.reference, reference ?? ''],
      [words.between, words.betweens[between ?? 'examiners']],
      [words.finding, finding ?? ''],
      [words.examiners, examiners ?? ''],
      [words.interval, interval ?? ''],
      [text.study.population, population ?? ''],
      ...(figures ? figureWords(figures) : []),
      [text.study.note, note ?? ''],
    ]
  }
  const { region } = content as { region: Region }
  if (kind === 'condition') {
    const condition = content as Condition
    const usual = condition.pre_test
    return [
      [text.question.region, text.regions[region]],
      [text.vocabulary.condition, condition.name],
      [text.vocabulary.setting, condition.setting],
      [text.vocabulary.preTest, typeof usual === 'number' ? percent(usual) : ''],
    ]
  }
  const structure = content as Structure
  const actions = structure.actions.map((it) => `${motions[it.motion]} of the ${joints[it.joint]}`)
  return [
    [text.question.region, text.regions[region]],
    [text.vocabulary.name, structure.name],
    [text.vocabulary.otherNames, structure.other_names.join(', ')],
    [text.vocabulary.tissue, tissues[structure.tissue]],
    [text.vocabulary.actions, actions.join(', ')],
    [text.vocabulary.offered, structure.retired ? text.vocabulary.retired : text.vocabulary.isOffered],
  ]
}

function figureWords(figures: FiguresInput): [label: string, words: string][] {
  const words = text.agreement
  if (figures.kind === 'reported') {
    const printed = Object.entries(words.printed).map(([name, label]) => {
      const value = figures[name as keyof typeof words.printed]
      return [label, value == null ? '' : String(value)] as [string, string]
    })
    return [[words.coefficient, words.printedKinds[figures.coefficient] ?? ''], ...printed]
  }
  const last: [string, string] =
    figures.kind === 'measurements'
      ? [words.unit, figures.unit ?? '']
      : [words.weighting, words.weights[figures.weights ?? 'none']]
  return [[words.kinds[figures.kind], shownCells(figures.rows)], last]
}

/** By what people call the record. */
export function title(change: Change): string {
  const content = change.content as { reference?: string; name?: string }
  return content.reference ?? content.name ?? ''
}

/** What a change put in the place of what; of a first version everything it says. */
export function put(change: Change): { label: string; before: string; after: string }[] {
  const before = new Map(change.before ? said(change.kind, change.before) : [])
  return said(change.kind, change.content)
    .map(([label, after]) => ({ label, before: before.get(label) ?? '', after }))
    .filter((field) => field.before !== field.after)
}
