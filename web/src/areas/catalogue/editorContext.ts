import { type InjectionKey, type Ref, inject } from 'vue'

import type { FieldError, Finding, SheetInput } from '@/shared/api/types'

/** What the parts of the editor know of the whole. */
export interface EditorContext {
  draft: Ref<SheetInput>
  errors: Ref<FieldError[]>
  findings: Ref<Finding[]>
  /** Names of the vocabulary that this sheet may use. */
  structures: Ref<string[]>
  conditions: Ref<string[]>
}

export const editorContext: InjectionKey<EditorContext> = Symbol('editor')

/** The conditions that a draft shows, the leading one first. */
export const shownConditions = (draft: SheetInput) =>
  [draft.condition, ...(draft.other_conditions ?? [])].filter((name) => name.trim())

export function useEditor(): EditorContext {
  const context = inject(editorContext)
  if (!context) throw new Error('A part of the editor stands outside of it.')
  return context
}
