import { QueryClient, keepPreviousData, useQueries, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type MaybeRefOrGetter, toValue } from 'vue'

import { outage } from '../outage'
import { api, data } from './client'
import type {
  AppraisalInput,
  AskedTest,
  Aspect,
  BatteryInput,
  CitationStyle,
  ClaimsInput,
  Domain,
  DomainAppraisal,
  Judgement,
  FiguresInput,
  PatientFitInput,
  PatientInput,
  PlanOrderInput,
  CorrectionInput,
  ExaminationsAsked,
  PoolInput,
  RawCounts,
  ReportInput,
  Region,
  ResultBody,
  Sort,
  Stakes,
  Status,
  StandingInput,
  StudyPlan,
} from './types'

/** Nobody writes into an answer, so that its parts need not be watched: that alone took as long as drawing hundreds of rows. */
export const asking = { retry: false, staleTime: 2000, refetchOnWindowFocus: true, shallow: true }
export const queryClient = new QueryClient({ defaultOptions: { queries: asking } })
outage.recovered = () => void queryClient.invalidateQueries()

/** After any change of a test or study: everything that may rest on it is asked anew. */
export async function refresh(): Promise<void> {
  await queryClient.invalidateQueries({ predicate: (query) => query.queryKey[0] !== 'answers' })
}

export function useRegions() {
  return useQuery({ queryKey: ['regions'], queryFn: async () => data(await api.GET('/api/v1/regions')) })
}

export function useConditions() {
  return useQuery({
    queryKey: ['conditions'],
    queryFn: async () => data(await api.GET('/api/v1/conditions')),
  })
}

export interface ListFilter {
  region?: Region
  search: string
  sort?: Sort
  reverse: boolean
  [filter: string]: string | number | boolean | undefined
}

export function useTests(filter: MaybeRefOrGetter<ListFilter>, enabled: MaybeRefOrGetter<boolean> = true) {
  return useQuery({
    queryKey: ['tests', computed(() => toValue(filter))],
    enabled,
    queryFn: async () => {
      const answer = await api.GET('/api/v1/tests', { params: { query: toValue(filter) as never } })
      const rows = data(answer)
      const { headers } = answer.response
      const total = Number(headers.get('X-Total-Count') ?? rows.length)
      const [done = 0, of = 0] = (headers.get('X-Computing') ?? '').split('/').map(Number)
      return {
        rows,
        total,
        behind: headers.get('X-Behind') === 'true',
        computing: of > 0 ? { done, of } : null,
      }
    },
    placeholderData: keepPreviousData,
    // A change of many tests is being read, or figures are being computed: the list is asked for again until they are in there.
    refetchInterval: (query) => (query.state.data?.behind || query.state.data?.computing ? 1000 : false),
  })
}

const byId = (id: string) => ({ params: { path: { id } } })

const askTest = async (id: string) => data(await api.GET('/api/v1/tests/{id}', byId(id)))
/** Of one of its conditions; without one of the leading one. */
const ofTest = (id: string, condition: string | undefined) => ({
  params: { path: { id }, query: { condition } },
})
const askPooled = async (id: string, condition?: string) =>
  data(await api.GET('/api/v1/tests/{id}/pooled', ofTest(id, condition)))

/** Begins to fetch what a sheet's page shows first. */
export function fetchAhead(id: string): void {
  void queryClient.prefetchQuery({ queryKey: ['test', id], queryFn: () => askTest(id) })
  void queryClient.prefetchQuery({ queryKey: ['pooled', id, undefined], queryFn: () => askPooled(id) })
}

export function useTest(id: MaybeRefOrGetter<string>, enabled: MaybeRefOrGetter<boolean> = true) {
  return useQuery({
    queryKey: ['test', computed(() => toValue(id))],
    queryFn: () => askTest(toValue(id)),
    enabled,
  })
}

const askResults = async (id: string, condition?: string) =>
  data(await api.GET('/api/v1/tests/{id}/results', ofTest(id, condition)))

const resultsOf = (id: string) => ({
  queryKey: ['results', id, undefined],
  queryFn: () => askResults(id),
})

/** The results of several tests, in the order of the tests. */
export function useResultsOf(ids: MaybeRefOrGetter<string[]>) {
  return useQueries({
    queries: computed(() => toValue(ids).map(resultsOf)),
    combine: (found) => ({
      results: found.flatMap((one) => one.data ?? []),
      pending: found.some((one) => one.isPending),
    }),
    shallow: true,
  })
}

const askPool = async (body: PoolInput, signal: AbortSignal) =>
  data(await api.POST('/api/v1/pools/answer', { body, signal }))

/** What these results answer together. */
export function usePool(input: MaybeRefOrGetter<PoolInput>) {
  return useQuery({
    queryKey: ['pool', computed(() => toValue(input))],
    queryFn: ({ signal }) => askPool(toValue(input), signal),
    enabled: computed(() => toValue(input).tests.length > 0),
    placeholderData: keepPreviousData,
  })
}

/** Asks what is likely to be asked next, so that it is there by then. */
export function usePoolAhead() {
  const client = useQueryClient()
  return (input: PoolInput) => {
    if (!input.tests.length) return
    void client.prefetchQuery({ queryKey: ['pool', input], queryFn: ({ signal }) => askPool(input, signal) })
    // Results that are there already are read anew when they are shown, not for a choice that may not be made.
    for (const id of input.tests) void client.prefetchQuery({ ...resultsOf(id), staleTime: Infinity })
  }
}

/** What that answer depends on; takes longer where there are many results. */
export function usePoolSensitivity(input: MaybeRefOrGetter<PoolInput>) {
  return useQuery({
    queryKey: ['pool sensitivity', computed(() => toValue(input))],
    queryFn: async ({ signal }) =>
      data(await api.POST('/api/v1/pools/sensitivity', { body: toValue(input), signal })),
    enabled: computed(() => toValue(input).tests.length > 0),
    placeholderData: keepPreviousData,
  })
}

/** The summary of a pool against the truth, if its reference standard errs as stated. */
export function usePoolReference(input: MaybeRefOrGetter<CorrectionInput | null>) {
  return useQuery({
    queryKey: ['pool reference', computed(() => toValue(input))],
    queryFn: async ({ signal }) =>
      data(await api.POST('/api/v1/pools/reference', { body: toValue(input)!, signal })),
    enabled: computed(() => toValue(input) != null),
    placeholderData: keepPreviousData,
  })
}

/** The frozen pools of a region, or those that a test is in. */
export function useSnapshots(of: MaybeRefOrGetter<{ region?: Region; test?: string }>) {
  return useQuery({
    queryKey: ['snapshots', computed(() => toValue(of))],
    queryFn: async () => data(await api.GET('/api/v1/snapshots', { params: { query: toValue(of) } })),
  })
}

export function useSnapshot(id: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: ['snapshot', computed(() => toValue(id))],
    queryFn: async () => data(await api.GET('/api/v1/snapshots/{id}', byId(toValue(id)))),
  })
}

/** How a frozen pool differs from today's, by these thresholds. */
export function useSnapshotDifference(
  id: MaybeRefOrGetter<string>,
  thresholds: MaybeRefOrGetter<{ lr_positive: number; lr_negative: number }>,
) {
  return useQuery({
    queryKey: ['snapshot difference', computed(() => toValue(id)), computed(() => toValue(thresholds))],
    queryFn: async () => {
      const params = { path: { id: toValue(id) }, query: toValue(thresholds) }
      return data(await api.GET('/api/v1/snapshots/{id}/difference', { params }))
    },
    placeholderData: keepPreviousData,
  })
}

export function useResults(id: MaybeRefOrGetter<string>, condition: MaybeRefOrGetter<string | undefined>) {
  return useQuery({
    queryKey: ['results', computed(() => toValue(id)), computed(() => toValue(condition))],
    queryFn: () => askResults(toValue(id), toValue(condition)),
  })
}

/** What each level of a test's finding is worth. */
export function useLevels(
  id: MaybeRefOrGetter<string>,
  condition: MaybeRefOrGetter<string | undefined>,
  preTest: MaybeRefOrGetter<number>,
  enabled: MaybeRefOrGetter<boolean>,
) {
  return useQuery({
    queryKey: ['levels', computed(() => [toValue(id), toValue(condition), toValue(preTest)])],
    queryFn: async () => {
      const query = { condition: toValue(condition), pre_test: toValue(preTest) }
      const params = { path: { id: toValue(id) }, query }
      return data(await api.GET('/api/v1/tests/{id}/levels', { params }))
    },
    enabled,
    placeholderData: keepPreviousData,
  })
}

/** What appraisals ask; it is the same as long as the program is. */
export function useAppraisalQuestions() {
  return useQuery({
    queryKey: ['answers', 'appraisal questions'],
    queryFn: async () => data(await api.GET('/api/v1/appraisals')),
    staleTime: Infinity,
  })
}

/** What the answers given so far suggest, by domain. */
export function useSuggestions(
  aspect: MaybeRefOrGetter<Aspect>,
  domains: MaybeRefOrGetter<Partial<Record<Domain, DomainAppraisal>>>,
  enabled: MaybeRefOrGetter<boolean>,
) {
  const asked = useQuery({
    queryKey: ['answers', 'suggestions', computed(() => toValue(aspect)), computed(() => toValue(domains))],
    queryFn: async () => {
      const params = { path: { aspect: toValue(aspect) } }
      const body = { domains: toValue(domains) as AppraisalInput['domains'] }
      return data(await api.POST('/api/v1/appraisals/{aspect}', { params, body }))
    },
    placeholderData: keepPreviousData,
    enabled,
  })
  return computed(() => (asked.data.value ?? {}) as Partial<Record<Domain, Judgement>>)
}

/** Studies on record of a reference, or of its text. */
export function useKnownStudies(of: MaybeRefOrGetter<{ reference_id?: string; reference?: string }>) {
  return useQuery({
    queryKey: ['known-studies', computed(() => toValue(of))],
    queryFn: async () => data(await api.GET('/api/v1/studies', { params: { query: toValue(of) } })),
    enabled: computed(() => Boolean(toValue(of).reference_id || toValue(of).reference)),
  })
}

export function useAgreements(id: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: ['agreements', computed(() => toValue(id))],
    queryFn: async () => data(await api.GET('/api/v1/tests/{id}/agreements', byId(toValue(id)))),
  })
}

export function usePooled(id: MaybeRefOrGetter<string>, condition: MaybeRefOrGetter<string | undefined>) {
  return useQuery({
    queryKey: ['pooled', computed(() => toValue(id)), computed(() => toValue(condition))],
    queryFn: () => askPooled(toValue(id), toValue(condition)),
  })
}

export interface PrevalenceFilter {
  age?: number
  setting?: string
  activity?: string
}

/** How common a condition is with and without symptoms, among the people asked about. */
export function usePrevalence(
  condition: MaybeRefOrGetter<string | undefined>,
  of: MaybeRefOrGetter<PrevalenceFilter> = {},
) {
  return useQuery({
    queryKey: ['prevalence', computed(() => toValue(condition)), computed(() => toValue(of))],
    queryFn: async () => {
      const params = { path: { id: toValue(condition)! }, query: toValue(of) as never }
      return data(await api.GET('/api/v1/conditions/{id}/prevalence', { params }))
    },
    enabled: computed(() => !!toValue(condition)),
    placeholderData: keepPreviousData,
  })
}

/** Entries of the register of conflicting teaching: of a region, or those that name a test. */
export function useTeachingConflicts(of: MaybeRefOrGetter<{ region?: Region; test?: string }>) {
  return useQuery({
    queryKey: ['teaching-conflicts', computed(() => toValue(of))],
    queryFn: async () =>
      data(await api.GET('/api/v1/teaching-conflicts', { params: { query: toValue(of) } })),
  })
}

export interface ReferenceFilter {
  search: string
  order: string
  style: CitationStyle
  offset: number
  limit: number
}

export function useReferences(filter: MaybeRefOrGetter<ReferenceFilter>) {
  return useQuery({
    queryKey: ['references', computed(() => toValue(filter))],
    queryFn: async () => data(await api.GET('/api/v1/references', { params: { query: toValue(filter) } })),
    placeholderData: keepPreviousData,
  })
}

export interface BoardFilter {
  progress?: string
  appraised?: boolean
  region?: Region
  search: string
  next?: boolean
  offset: number
  limit: number
}

/** How far the reading of each result has come. */
export function useBoard(filter: MaybeRefOrGetter<BoardFilter>) {
  return useQuery({
    queryKey: ['extractions', computed(() => toValue(filter))],
    queryFn: async () => data(await api.GET('/api/v1/extractions', { params: { query: toValue(filter) } })),
    placeholderData: keepPreviousData,
  })
}

export const extractionKey = (id: string) => ['extraction', id]

export function useExtraction(id: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => extractionKey(toValue(id))),
    queryFn: async () => data(await api.GET('/api/v1/extractions/{id}', byId(toValue(id)))),
  })
}

export function useReaderAgreement(
  region: MaybeRefOrGetter<Region | undefined>,
  enabled: MaybeRefOrGetter<boolean>,
) {
  return useQuery({
    queryKey: ['reader-agreement', computed(() => toValue(region))],
    queryFn: async () =>
      data(
        await api.GET('/api/v1/extractions/agreement', { params: { query: { region: toValue(region) } } }),
      ),
    enabled,
  })
}

export function useReportedTests(id: MaybeRefOrGetter<string>, enabled: MaybeRefOrGetter<boolean>) {
  return useQuery({
    queryKey: ['reported-tests', computed(() => toValue(id))],
    queryFn: async () => data(await api.GET('/api/v1/references/{id}/tests', byId(toValue(id)))),
    enabled,
  })
}

/**
 * What results of these tests mean at the pre-test probability, by the figures that were read of them. When the server
 * has others by now, whatever shows the old ones is asked anew.
 */
export function useAnswers(preTest: MaybeRefOrGetter<number>, tests: MaybeRefOrGetter<AskedTest[]>) {
  return useQuery({
    queryKey: ['answers', computed(() => toValue(preTest)), computed(() => toValue(tests))],
    queryFn: async () => {
      const body = { pre_test: toValue(preTest), tests: toValue(tests) }
      const answers = data(await api.POST('/api/v1/likelihood/answers', { body }))
      if (answers.some((answer) => answer.changed)) void refresh()
      return answers
    },
    enabled: computed(() => toValue(tests).length > 0),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}

/** What was answered before stays while the next answer is on its way, unless it is about another condition. */
const ofSameCondition =
  (input: MaybeRefOrGetter<{ region: Region; condition: string }>) =>
  <T>(before: T | undefined, query?: { queryKey: readonly unknown[] }): T | undefined => {
    const now = toValue(input)
    const asked = query?.queryKey[1] as typeof now | undefined
    return asked?.region === now.region && asked.condition === now.condition ? before : undefined
  }

/** From the pre-test probability over a patient's results to what is done. */
export function usePatient(input: MaybeRefOrGetter<PatientInput>) {
  return useQuery({
    queryKey: ['patient', computed(() => toValue(input))],
    queryFn: async ({ signal }) =>
      data(await api.POST('/api/v1/likelihood/patient', { body: toValue(input), signal })),
    enabled: computed(() => toValue(input).condition !== ''),
    placeholderData: ofSameCondition(input),
  })
}

/** What stands behind the figures of that. */
export function usePatientBackground(
  input: MaybeRefOrGetter<PatientInput>,
  enabled: MaybeRefOrGetter<boolean>,
) {
  return useQuery({
    queryKey: ['patient background', computed(() => toValue(input))],
    queryFn: async ({ signal }) =>
      data(await api.POST('/api/v1/likelihood/background', { body: toValue(input), signal })),
    enabled,
    placeholderData: ofSameCondition(input),
  })
}

/** What a battery of tests is worth. */
export function useBattery(input: MaybeRefOrGetter<BatteryInput>, enabled: MaybeRefOrGetter<boolean>) {
  return useQuery({
    queryKey: ['battery', computed(() => toValue(input))],
    queryFn: async ({ signal }) =>
      data(await api.POST('/api/v1/combine/battery', { body: toValue(input), signal })),
    enabled,
    placeholderData: ofSameCondition(input),
  })
}

export async function checkClaims(claims: ClaimsInput, signal: AbortSignal) {
  return data(await api.POST('/api/v1/combine/claims', { body: claims, signal }))
}

export async function askThreshold(stakes: Stakes, signal: AbortSignal) {
  return data(await api.POST('/api/v1/likelihood/threshold', { body: stakes, signal }))
}

export async function askStudySizes(plan: StudyPlan, signal: AbortSignal) {
  return data(await api.POST('/api/v1/likelihood/study-size', { body: plan, signal }))
}

export async function askAgreement(figures: FiguresInput, signal: AbortSignal) {
  return data(await api.POST('/api/v1/agreements/answer', { body: figures, signal }))
}

export async function askRebuilt(report: ReportInput, signal: AbortSignal) {
  return data(await api.POST('/api/v1/rebuilds', { body: report, signal }))
}

export async function askAccuracy(cells: RawCounts, signal: AbortSignal) {
  return data(await api.POST('/api/v1/accuracy', { body: cells, signal }))
}

/** What adding a result, or correcting this one, would change in the test's answer. */
export async function askEffect(
  testId: string,
  correcting: string | undefined,
  body: ResultBody,
  signal: AbortSignal,
) {
  const params = { path: { id: testId }, query: { correcting } }
  return data(await api.POST('/api/v1/tests/{id}/results/effect', { params, body, signal }))
}

/** Plans of a region, of those that you may see. */
export function usePlans(filter: MaybeRefOrGetter<{ region: Region; search: string; status?: Status }>) {
  return useQuery({
    queryKey: ['plans', computed(() => toValue(filter))],
    queryFn: async () => data(await api.GET('/api/v1/plans', { params: { query: toValue(filter) } })),
    placeholderData: keepPreviousData,
  })
}

export function usePlan(id: MaybeRefOrGetter<string>, enabled: MaybeRefOrGetter<boolean> = true) {
  return useQuery({
    queryKey: ['plan', computed(() => toValue(id))],
    queryFn: async () => data(await api.GET('/api/v1/plans/{id}', byId(toValue(id)))),
    enabled,
  })
}

export const askPlanOrder = async (body: PlanOrderInput, signal: AbortSignal) =>
  data(await api.POST('/api/v1/plans/order', { body, signal }))

/** The tests of a region that a plan may take. */
export function useOfferedTests(region: MaybeRefOrGetter<Region>) {
  return useQuery({
    queryKey: ['plan tests', computed(() => toValue(region))],
    queryFn: async () =>
      data(await api.GET('/api/v1/plans/tests', { params: { query: { region: toValue(region) } } })),
  })
}

/** Where an examination by a plan stands after some results. */
export function usePlanStandingAnswer(
  id: MaybeRefOrGetter<string>,
  input: MaybeRefOrGetter<StandingInput>,
  enabled: MaybeRefOrGetter<boolean>,
) {
  return useQuery({
    queryKey: ['plan standing', computed(() => toValue(id)), computed(() => toValue(input))],
    queryFn: async ({ signal }) =>
      data(
        await api.POST('/api/v1/plans/{id}/standing', { ...byId(toValue(id)), body: toValue(input), signal }),
      ),
    enabled,
    placeholderData: keepPreviousData,
  })
}

/** Whether the tests of a plan fit a patient. */
export function usePlanFitAnswer(
  id: MaybeRefOrGetter<string>,
  input: MaybeRefOrGetter<PatientFitInput>,
  enabled: MaybeRefOrGetter<boolean>,
) {
  return useQuery({
    queryKey: ['plan fit', computed(() => toValue(id)), computed(() => toValue(input))],
    queryFn: async ({ signal }) =>
      data(await api.POST('/api/v1/plans/{id}/fit', { ...byId(toValue(id)), body: toValue(input), signal })),
    enabled,
    placeholderData: keepPreviousData,
  })
}

/** The sheets of several tests, fetched before they are needed: they stay when the connection goes. */
export function useSheets(ids: MaybeRefOrGetter<string[]>) {
  return useQueries({
    queries: computed(() =>
      toValue(ids).map((id) => ({ queryKey: ['test', id], queryFn: () => askTest(id), staleTime: 600_000 })),
    ),
  })
}

/** Your examinations, or those that others share. */
export function useExaminations(filter: MaybeRefOrGetter<ExaminationsAsked>) {
  return useQuery({
    queryKey: ['examinations', computed(() => toValue(filter))],
    queryFn: async () => data(await api.GET('/api/v1/examinations', { params: { query: toValue(filter) } })),
    placeholderData: keepPreviousData,
  })
}

export const askExamination = async (id: string) => data(await api.GET('/api/v1/examinations/{id}', byId(id)))

export function useExaminationRecord(id: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: ['examination', computed(() => toValue(id))],
    queryFn: () => askExamination(toValue(id)),
  })
}

/** What waits in your own examinations. */
export function useExaminationsWaiting() {
  return useQuery({
    queryKey: ['examinations', 'waiting'],
    queryFn: async () => data(await api.GET('/api/v1/examinations/waiting')),
  })
}

/** What your own finished examinations say of a condition. */
export function useOwnExaminations(
  asked: MaybeRefOrGetter<{ region: Region; condition: string }>,
  enabled: MaybeRefOrGetter<boolean>,
) {
  return useQuery({
    queryKey: ['own examinations', computed(() => toValue(asked))],
    queryFn: async () =>
      data(await api.GET('/api/v1/examinations/own', { params: { query: toValue(asked) } })),
    enabled,
  })
}
