import { computed, type ComputedRef } from 'vue'

import { type Query, useAddress } from './useAddress'

/** What a list can be asked for by name; without a usual choice, all of it is shown until somebody chooses. */
export interface Choice<Name extends string, Usual extends string | undefined> {
  known: Record<Name, unknown>
  usual: Usual
}

export function choice<Name extends string>(known: Record<Name, unknown>): Choice<Name, undefined>
export function choice<Name extends string>(
  known: Record<Name, unknown>,
  usual: NoInfer<Name>,
): Choice<Name, Name>
export function choice(known: Record<string, unknown>, usual?: string) {
  return { known, usual }
}

type Choices = Record<string, Choice<string, string | undefined>>
type NameOf<Of> = Of extends Choice<infer Name, string | undefined> ? Name : never
type Chosen<All extends Choices> = {
  [Key in keyof All]: NameOf<All[Key]> | (All[Key]['usual'] extends string ? never : undefined)
}
type Change<All extends Choices> = { [Key in keyof All]?: NameOf<All[Key]> | null }

/**
 * Search, choices, switches and page of a list; all of it lives in the address, and what is usual is left out of it. Names that nobody
 * knows are passed over. Whatever changes, the list begins again at its first page.
 */
export function useListPage<All extends Choices, Flag extends string = never>(asked: {
  choices: All
  flags?: readonly Flag[]
  /** Rows on one page. */
  size?: number
}) {
  const { one, change } = useAddress()
  const again = (changes: Query) => change({ page: undefined, ...changes })
  const page = computed(() => Math.max(0, Math.floor(Number(one('page') || 1)) - 1 || 0))
  const chosen = computed(
    () =>
      Object.fromEntries(
        Object.entries(asked.choices).map(([name, { known, usual }]) => {
          const given = one(name)
          return [name, given && Object.hasOwn(known, given) ? given : usual]
        }),
      ) as Chosen<All>,
  )
  const flags = asked.flags ?? []

  return {
    search: computed(() => one('search').trim()),
    chosen,
    on: computed(
      () => Object.fromEntries(flags.map((flag) => [flag, one(flag) === 'true'])) as Record<Flag, boolean>,
    ),
    page,
    /** Which rows are asked for. */
    window: computed(() => ({ offset: page.value * (asked.size ?? 0), limit: asked.size ?? 0 })),
    setSearch: (value: string) => again({ search: value.trim() || undefined }),
    /** One or several choices; null takes one back. */
    choose: (changes: Change<All>) =>
      again(
        Object.fromEntries(
          Object.entries(changes).map(([name, value]) => [
            name,
            value == null || value === asked.choices[name]?.usual ? undefined : String(value),
          ]),
        ),
      ),
    turn: (flag: Flag, on: boolean) => again({ [flag]: on ? 'true' : undefined }),
    /** Everything again: without the search and without what is named. */
    clear: (...names: (keyof All | Flag)[]) =>
      again(Object.fromEntries(['search', ...names].map((name) => [name, undefined]))),
    setPage: (value: number) => change({ page: value ? String(value + 1) : undefined }),
  }
}

/** What a field for the search needs to know of a list. */
export interface Searched {
  search: ComputedRef<string>
  setSearch: (value: string) => unknown
}

/** The entries of a select. */
export const options = <Name extends string>(words: Record<Name, string>) =>
  Object.entries<string>(words).map(([value, title]) => ({ value: value as Name, title }))
