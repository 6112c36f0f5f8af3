import { replaceEqualDeep } from '@tanstack/vue-query'
import { useTimeoutFn } from '@vueuse/core'
import { computed, inject, type InjectionKey, provide, ref } from 'vue'
import { useRoute } from 'vue-router'

import { useConditions, useRegions, useTest } from '../api/queries'
import type { Region } from '../api/types'
import { type Query, useAddress } from './useAddress'
import { typedPercent } from '@/shared/format'

/** Half and half, when nothing better is known; the strip says so. */
const UNKNOWN_PRE_TEST = 0.5

const UNSAID = { pretest: undefined, low: undefined, high: undefined, reassure: undefined, act: undefined }
const CARRIED = ['condition', ...Object.keys(UNSAID)]
/** How long a hand rests before the address follows: it changes every link of the page. */
const REST_MILLISECONDS = 120

/** Where most tests are is where most people want to go; the first of equals. */
function fullest<T extends { tests: number }>(entries: T[]): T | undefined {
  return entries.reduce<T | undefined>(
    (best, entry) => (best && best.tests >= entry.tests ? best : entry),
    undefined,
  )
}

/**
 * The question every screen answers: region, target condition, pre-test probability. It lives in the address, so that
 * it survives a reload, the back button and being sent to a colleague.
 */
function question() {
  const route = useRoute()
  const { one, change } = useAddress()
  const regions = useRegions()
  const conditions = useConditions()
  // A sheet opened by its bare address answers the question of its own region.
  const id = computed(() => String(route.params.id ?? ''))
  const sheet = useTest(id, () => !!id.value).data
  const named = computed(() => one('region') || sheet.value?.region)

  const region = computed<Region>(() => {
    const known = regions.data.value ?? []
    return (known.find((entry) => entry.region === named.value) ?? fullest(known))?.region ?? 'hand_wrist'
  })
  const choices = computed(() => (conditions.data.value ?? []).filter((c) => c.region === region.value))
  const condition = computed(() => {
    const wanted = one('condition')
    return choices.value.find((c) => c.name === wanted) ?? fullest(choices.value) ?? null
  })
  const usual = computed(() => condition.value?.pre_test ?? null)
  /** What was just set, until the address says it: figures follow at once. */
  const justSet = ref<number | null>(null)
  const follow = useTimeoutFn(
    (pretest: string) => void change({ pretest }).then(() => (justSet.value = null)),
    REST_MILLISECONDS,
    { immediate: false },
  )
  const preTest = computed(() => {
    if (justSet.value != null) return justSet.value
    const given = Number(one('pretest') || NaN)
    return given > 0 && given < 100 ? given / 100 : (usual.value ?? UNKNOWN_PRE_TEST)
  })

  const share = (name: string) => {
    const given = Number(one(name) || NaN)
    return given > 0 && given < 100 ? given / 100 : null
  }
  /** From where to where the pre-test probability may lie; a range that does not hold it is none. */
  const range = computed(() => {
    const [low, high] = [share('low'), share('high')]
    return low != null && high != null && low <= preTest.value && preTest.value <= high
      ? ([low, high] as const)
      : null
  })
  const thresholds = computed(() => {
    const [reassure, act] = [share('reassure'), share('act')]
    return reassure != null && act != null && reassure <= act ? { reassure, act } : null
  })

  function another(changes: Query) {
    follow.stop()
    justSet.value = null
    return change(changes)
  }

  /** What a link says so that its page asks about this condition: another one has a probability and thresholds of its own. */
  function asking(of: { region: Region; condition: string }): Query {
    const same = condition.value?.name === of.condition && region.value === of.region
    return { ...carried.value, region: of.region, condition: of.condition, ...(same ? {} : UNSAID) }
  }
  const carried = computed<Query>((before) => {
    const said = Object.fromEntries(CARRIED.map((name) => [name, one(name) || undefined]))
    // The same object for the same question: hundreds of links would be made anew for a choice that is none of theirs.
    return replaceEqualDeep(before, { region: named.value, ...said })
  })

  return {
    region,
    condition,
    choices,
    asking,
    preTest,
    usual,
    range,
    /** Below which one reassures, and above which one acts. */
    thresholds,
    /** What a link to another screen must carry along. */
    carried,
    setRegion: (value: Region) => another({ region: value, condition: undefined, ...UNSAID }),
    // What is done, and from where on, is another matter for another condition.
    setCondition: (name: string) => another({ region: region.value, condition: name, ...UNSAID }),
    setPreTest: (value: number) => {
      const pretest = typedPercent(value)
      justSet.value = Number(pretest) / 100
      follow.start(pretest)
    },
    setRange: (range: readonly [number, number] | null) =>
      change({
        low: range ? typedPercent(range[0]) : undefined,
        high: range ? typedPercent(range[1]) : undefined,
      }),
    setThresholds: (to: { reassure: number; act: number } | null) =>
      change({
        reassure: to ? typedPercent(to.reassure) : undefined,
        act: to ? typedPercent(to.act) : undefined,
      }),
  }
}

type Question = ReturnType<typeof question>
const KEY: InjectionKey<Question> = Symbol('question')

/** Sets the question up once for everything below, which is many rows. */
export function provideQuestion(): void {
  provide(KEY, question())
}

export const useQuestion = (): Question => inject(KEY, question, true)
