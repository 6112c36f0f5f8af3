// The trials in their order; `script/trial NAME...` runs some of them.

import * as attacks from './attacks.mjs'
import * as faults from './faults.mjs'
import { largeFile, people } from './load.mjs'
import { stopAll } from './server.mjs'

let [large, more] = []
const tests = () => (large ??= largeFile(5000))
const others = () => (more ??= largeFile(5000, 'more '))

const TRIALS = [
  ['killed', 'server and database killed', () => faults.killed()],
  ['backup', 'backup and restore', () => faults.backup(tests())],
  ['two', 'two servers', () => faults.twoInstances(tests(), others())],
  ['flood', 'flood of sign-ins', () => attacks.signInFlood(tests())],
  ['slow', 'slow clients', () => attacks.slowClients(tests())],
  ['faults', 'files of faults', () => attacks.amplification(tests())],
  ['import', 'import beside work', () => attacks.importBeside(tests(), others())],
  ['load-5000', 'load', () => people(5000, 20)],
  ['load-5000-200', 'load', () => people(5000, 200)],
  ['load-20000', 'load', () => people(20_000, 20)],
  ['load-20000-200', 'load', () => people(20_000, 200)],
]

const chosen = process.argv.slice(2)
const unknown = chosen.filter((name) => !TRIALS.some(([known]) => known === name))
if (unknown.length) {
  console.error(`pruvex: there is no trial ${unknown.join(', ')}; there are: ${TRIALS.map(([name]) => name).join(', ')}`)
  process.exit(2)
}
const rows = []
for (const [name, title, run] of TRIALS.filter(([name]) => !chosen.length || chosen.includes(name))) {
  const start = performance.now()
  let row
  try {
    row = await run()
  } catch (cause) {
    row = { ok: false, said: `broke off: ${cause.message} ${cause.cause ?? ''}` }
    await stopAll()
  }
  const seconds = Math.round((performance.now() - start) / 1000)
  const list = row.list ? `${row.list.p50} / ${row.list.p95} / ${row.list.max}` : '–'
  rows.push(`| ${title} | ${row.said} | ${list} | ${row.ok ? 'held' : '**did not hold**'} |`)
  console.error(`${name}: ${row.ok ? 'held' : 'did not hold'} (${seconds} s): ${row.said}; list ${list} ms`)
  if (!row.ok) process.exitCode = 1
}
console.log('| trial | what happened | list meanwhile, p50 / p95 / max in ms | |\n|---|---|---|---|')
console.log(rows.join('\n'))
process.exit()
