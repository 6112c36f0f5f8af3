import { computed, shallowRef, type ShallowRef } from 'vue'
import { type LocationQueryValue, type Router, useRoute, useRouter } from 'vue-router'

export type Query = Record<string, LocationQueryValue | LocationQueryValue[] | undefined>

/** What was chosen and the address does not say yet, in each application. */
const chosen = new WeakMap<Router, ShallowRef<Query | null>>()

/**
 * What a page shows lives in the address. A choice counts at once and the address follows: figures need not wait for it, and of
 * two choices in a row the second starts from the first.
 */
export function useAddress() {
  const route = useRoute()
  const router = useRouter()
  const ahead = chosen.get(router) ?? shallowRef<Query | null>(null)
  chosen.set(router, ahead)
  const query = computed<Query>(() => ahead.value ?? route.query)
  const many = (name: string) =>
    [query.value[name]].flat().flatMap((value) => (typeof value === 'string' && value ? [value] : []))

  return {
    /** Every value of a parameter. */
    many,
    /** The first value of a parameter, or nothing. */
    one: (name: string) => many(name)[0] ?? '',
    async change(changes: Query) {
      const to = { ...query.value, ...changes }
      ahead.value = to
      try {
        await router.replace({ query: to })
      } finally {
        if (ahead.value === to) ahead.value = null
      }
    },
  }
}
