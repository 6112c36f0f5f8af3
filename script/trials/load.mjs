// How long people wait, beside what the database alone takes for the same rows.

import { execFileSync } from 'node:child_process'
import { readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs'

import { SCRATCH, Server, freshDatabase, pause, pruvex, sheet, spread } from './server.mjs'
import { bundle, load } from '../load.mjs'

const { PG_BIN } = process.env

/** A file of so many made-up tests. */
export function largeFile(count, prefix = '') {
  const file = `${SCRATCH}/${prefix}${count}.json`
  writeFileSync(file, JSON.stringify(bundle(count, prefix)))
  return file
}

/** The rows of one region's list, by so many connections at once. */
function rawRows(url, clients) {
  const script = `${SCRATCH}/rows.sql`
  writeFileSync(script, "SELECT t.id, t.sheet, c.name FROM test t JOIN condition c ON c.id = t.condition_id WHERE t.region = 'knee' ORDER BY t.id LIMIT 100;\n")
  const prefix = `${SCRATCH}/raw`
  const run = ['-n', '-f', script, '-c', `${clients}`, '-j', '2', '-T', '8', '-R', `${clients * 8}`, '--log', '--log-prefix', prefix, url]
  execFileSync(`${PG_BIN}/pgbench`, run, { stdio: 'ignore' })
  const logs = readdirSync(SCRATCH).filter((name) => name.startsWith('raw.'))
  // Time of the statement itself: what it was late by is in another column.
  const times = logs.flatMap((name) => readFileSync(`${SCRATCH}/${name}`, 'utf8').trim().split('\n').map((line) => Number(line.split(' ')[2]) / 1000))
  logs.forEach((name) => rmSync(`${SCRATCH}/${name}`))
  return spread(times)
}

export async function people(count, users) {
  const url = freshDatabase('trial_load')
  await pruvex(url, 'import', largeFile(count))
  const server = await Server.start(url, '--demo')
  const author = await server.enter('author')
  const start = performance.now()
  await author.get('/tests?limit=1&region=knee')
  const first = (performance.now() - start) / 1000
  await pause(3000)
  const times = await load(server.address, users, 20)
  const lists = spread(times.get('list of a region'))
  // The first list after single changes, by nobody but one.
  const changes = []
  for (let n = 0; n < 8; n += 1) {
    await author.post('/tests', sheet(`After ${n}`))
    const began = performance.now()
    await author.get('/tests?limit=100&region=hand_wrist')
    changes.push(performance.now() - began)
  }
  const structure = await author.post('/structures', { name: 'Trial band', region: 'knee', tissue: 'ligament', other_names: [] })
  const began = performance.now()
  await author.get('/tests?limit=100&region=knee')
  const vocabulary = Math.round(performance.now() - began)
  const memory = server.memory
  const raw = rawRows(url, Math.min(users, 100))
  await server.stop()
  const all = spread([...times.values()].flat())
  const ratio = (lists.p95 / Math.max(raw.p95, 1)).toFixed(1)
  return {
    ok: true,
    list: lists,
    said: `${users} people on ${count} tests: all answers p50 ${all.p50}, p95 ${all.p95}, max ${all.max} ms; the first hundred rows of a region by SQL alone p95 ${raw.p95} ms, the list ${ratio} times that; first list after a start ${first.toFixed(1)} s, after a new test ${spread(changes).p50}–${spread(changes).max} ms, after a new structure (${structure.status}) ${vocabulary} ms; memory ${memory} MB`,
  }
}
