import type { ExaminationConduct, PatientFitInput } from '@/shared/api/types'
import { session } from '@/shared/session/session'

/** Entries that the server does not have yet, with the version from which they were made. */
export interface Unsent {
  version: number
  patient: PatientFitInput
  conduct: ExaminationConduct
}

/** Another person on the same device does not find them. */
const key = (id: string) => `pruvex-examination-${session.account?.id ?? ''}-${id}`

/** Keeps them until they are sent, also over a reload; answers whether the browser lets that be. */
export function keepHere(id: string, unsent: Unsent): boolean {
  try {
    localStorage.setItem(key(id), JSON.stringify(unsent))
    return true
  } catch {
    // Full, or forbidden by the browser's settings.
    return false
  }
}

export function keptHere(id: string): Unsent | null {
  try {
    return JSON.parse(localStorage.getItem(key(id)) ?? 'null') as Unsent | null
  } catch {
    return null
  }
}

export function forgetHere(id: string): void {
  try {
    localStorage.removeItem(key(id))
  } catch {
    // Nothing was kept there then.
  }
}
