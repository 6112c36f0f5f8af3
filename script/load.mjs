#!/usr/bin/env node
// How fast the list answers when the catalogue is large. Against a demonstration that holds what `script/load.mjs --bundle N`
// printed:
//   node script/load.mjs --bundle 5000 > /tmp/large.json && pruvex import /tmp/large.json
//   node script/load.mjs http://127.0.0.1:8460 --users 20 --seconds 15
// Every user signs in, then asks for lists, searches, sheets, results, pooled answers and the board of readings with short pauses, as people do.

import { fileURLToPath } from 'node:url'

const REGIONS = ['neck', 'shoulder', 'elbow', 'hand_wrist', 'trunk_back', 'pelvis', 'hip', 'knee', 'ankle_foot']
const SEARCHES = ['bade', 'fenmal%20ti', 'press', 'rusa%20sign', 'vizu%20gola']
const option = (name, fallback) => {
  const at = process.argv.indexOf(`--${name}`)
  return at < 0 ? fallback : Number(process.argv[at + 1])
}

/** A bundle of so many made-up tests; `prefix` tells those of two bundles apart. */
export function bundle(count, prefix = '') {
  let state = 12345
  const random = (below) => {
    state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff
    return state % below
  }
  // Names as different as real ones: a search that finds every test says nothing.
  const syllables = ['ba', 'de', 'fi', 'go', 'ku', 'la', 'me', 'ni', 'po', 'ru', 'sa', 'te', 'vi', 'wo', 'zu', 'dor', 'fen', 'mal', 'tis', 'ran']
  const word = () => Array.from({ length: 3 }, () => syllables[random(20)]).join('')
  const studies = []
  const tests = Array.from({ length: count }, (_, i) => ({
    sheet: {
      name: `${prefix}${word()} ${word()} test ${i}`,
      aliases: [`${prefix}${word()} of ${word()} ${i}`, `${prefix}${word()} sign ${i}`],
      region: REGIONS[i % 9],
      purpose: 'pain_provocation',
      condition: `Sample condition ${i % 9}`,
      positive_finding: 'The familiar pain within 30 seconds.',
      variants: [0, 1].map((way) => ({
        name: `Way ${way}`,
        position: 'sitting',
        patient_position: 'Sitting, limb supported',
        steps: [
          { text: `Hold limb number ${i}.`, actor: 'examiner', hold_seconds: 10 },
          { text: `Press for ${10 + random(50)} seconds with ${1 + random(4)} fingers.`, hold_seconds: 30 },
          { text: `Ask what is felt, ${random(1000)} times if need be.` },
        ],
        targets: [{ structure: 'Sample structure', role: 'compressed' }],
        criteria: [
          { outcome: 'positive', kind: 'familiar_pain', text: 'The familiar pain.' },
          { outcome: 'negative', kind: 'sign', text: 'None.' },
        ],
      })),
      cautions: [{ text: 'Growing pain.', kind: 'stop_rule' }],
      pitfalls: [{ text: 'Pressing beside the structure.', bias: 'towards_negative' }],
    },
    results: Array.from({ length: random(9) }, (_, s) => {
      studies.push({ study: { reference: `Sample report ${prefix}${i}-${s}`, population: 'Adults' } })
      const [tp, fp, fn, tn] = [10 + random(40), random(15), random(20), 20 + random(60)]
      return { study: studies.length - 1, result: { reference_standard: 'Follow-up', tp, fp, fn, tn } }
    }),
  }))
  const conditions = REGIONS.map((region, i) => ({ region, name: `Sample condition ${i}`, setting: 'made up', pre_test: 0.3 }))
  return { format: 'pruvex-bundle', schema_version: 3, title: 'Sample data for load', sample: true, conditions, studies, tests }
}

/** People who look through the catalogue; answers how long each kind of answer took. */
export async function load(base, users, seconds) {
  const times = new Map()
  const ask = async (what, path, init) => {
    const start = performance.now()
    const answer = await fetch(base + path, init)
    await answer.text()
    if (!answer.ok) throw new Error(`${path} answered ${answer.status}`)
    if (!times.has(what)) times.set(what, [])
    times.get(what).push(performance.now() - start)
    return answer
  }
  const pause = (milliseconds) => new Promise((done) => setTimeout(done, milliseconds))
  const user = async (number) => {
    const headers = { 'Content-Type': 'application/json' }
    const entered = await fetch(`${base}/api/v1/session/demo`, { method: 'POST', headers, body: '{"role":"author"}' })
    const cookie = entered.headers.get('set-cookie').split(';')[0]
    const init = { headers: { Cookie: cookie } }
    const some = await (await fetch(`${base}/api/v1/tests?region=knee`, init)).json()
    // People do not press in the same millisecond: where all begin at once, that moment alone is the slowest twentieth.
    await pause((number * 1000) / users)
    const end = performance.now() + 1000 * seconds
    for (let turn = number; performance.now() < end; turn += 1) {
      await ask('list of a region', `/api/v1/tests?limit=100&region=${REGIONS[turn % 9]}`, init)
      await ask('search', `/api/v1/tests?limit=100&region=${REGIONS[turn % 9]}&search=${SEARCHES[turn % 5]}`, init)
      const { id } = some[(turn * 7) % some.length]
      await ask('sheet', `/api/v1/tests/${id}`, init)
      await ask('results of a sheet', `/api/v1/tests/${id}/results`, init)
      await ask('pooled answer', `/api/v1/tests/${id}/pooled`, init)
      await ask('board of a region', `/api/v1/extractions?limit=50&region=${REGIONS[turn % 9]}`, init)
      await pause(500 + 25 * number)
    }
  }
  await Promise.all(Array.from({ length: users }, (_, number) => user(number)))
  return times
}

function print(times) {
  for (const [what, list] of times) {
    list.sort((a, b) => a - b)
    const at = (share) => list[Math.min(list.length - 1, Math.floor(share * list.length))].toFixed(1)
    console.log(`${what}: ${list.length} answers, median ${at(0.5)} ms, p95 ${at(0.95)} ms, slowest ${at(1)} ms`)
  }
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const count = option('bundle', 0)
  if (count) console.log(JSON.stringify(bundle(count)))
  else print(await load(process.argv[2], option('users', 20), option('seconds', 15)))
}
