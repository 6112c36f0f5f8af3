// What was acknowledged is there afterwards, whoever is killed.

import { readFileSync, statSync } from 'node:fs'

import { Server, SCRATCH, freshDatabase, killDatabase, pause, pruvex, sheet, sql, spread, besideReaders } from './server.mjs'

/** Writes until told to stop; whatever the server said yes to stands in the ledger. */
async function write(server, ledger, going, number, round) {
  let person
  for (let turn = 0; going.on; turn += 1) {
    try {
      person ??= await server.enter('author')
      const name = `Trial ${round} writer ${number} sheet ${turn}`
      const made = await person.post('/tests', sheet(name))
      if (made.status !== 201) continue
      ledger.set(made.json.id, { version: 1, name })
      for (let version = 1; version <= 3 && going.on; version += 1) {
        const edited = `${name} edited ${version}`
        const saved = await person.put(`/tests/${made.json.id}`, version, sheet(edited))
        if (saved.status === 200) ledger.set(made.json.id, { version: version + 1, name: edited })
        else break
      }
    } catch {
      // Killed in the middle of it: nothing was acknowledged.
      await pause(20)
    }
  }
}

/** How many entries of the ledger the database does not hold as they were acknowledged, or later. */
function lost(database, ledger) {
  const rows = sql(database, "SELECT t.id || '|' || t.version || '|' || n.label FROM test t JOIN test_name n ON n.test_id = t.id AND n.position = 0")
  const held = new Map(rows.split('\n').map((row) => row.split('|')).map(([id, version, name]) => [id, { version: Number(version), name }]))
  return [...ledger].filter(([id, { version, name }]) => {
    const row = held.get(id)
    return !row || row.version < version || (row.version === version && row.name !== name)
  }).length
}

export async function killed(rounds = 10) {
  const url = freshDatabase('trial_killed')
  const ledger = new Map()
  const back = []
  for (let round = 0; round < 2 * rounds; round += 1) {
    const server = await Server.start(url, '--demo')
    const going = { on: true }
    const writers = Array.from({ length: 8 }, (_, number) => write(server, ledger, going, number, round))
    await pause(400 + Math.random() * 900)
    const start = performance.now()
    if (round % 2 === 0) await server.kill()
    else {
      await killDatabase()
      // The same server goes on by itself.
      const person = await server.enter('author').catch(() => null)
      for (let ok = person !== null; !ok; ) ok = await fetch(`${server.address}/readyz`).then((answer) => answer.ok, () => false)
      back.push(performance.now() - start)
    }
    going.on = false
    await Promise.all(writers)
    if (round % 2 === 1) await server.stop()
  }
  const missing = lost('trial_killed', ledger)
  return {
    ok: missing === 0,
    said: `server killed ${rounds} times, database killed ${rounds} times under 8 writers: ${ledger.size} sheets acknowledged, ${missing} lost; the server went on ${spread(back).p50} ms after the database was killed (median)`,
  }
}

const tables = (database) =>
  sql(database, "SELECT tablename FROM pg_tables WHERE schemaname = 'public' AND tablename <> 'seaql_migrations' ORDER BY 1").split('\n')

/** Every row of every table, as one hash each. */
function content(database) {
  const of = (table) => sql(database, `SELECT count(*) || ' ' || coalesce(md5(string_agg(md5(t::text), '' ORDER BY md5(t::text))), '') FROM ${table} t`)
  return new Map(tables(database).map((table) => [table, of(table)]))
}

export async function backup(large) {
  const url = freshDatabase('trial_backup')
  await pruvex(url, 'import', large)
  const server = await Server.start(url, '--demo')
  await server.ready()
  const ledger = new Map()
  const going = { on: true }
  const file = `${SCRATCH}/trial.backup`
  const { list, refusals } = await besideReaders(server, async () => {
    const writers = Array.from({ length: 4 }, (_, number) => write(server, ledger, going, number, 0))
    await pause(1500)
    const before = new Map(ledger)
    await pruvex(url, 'backup', file)
    going.on = false
    await Promise.all(writers)
    // What was acknowledged before the backup began is in it.
    await pruvex(freshDatabase('trial_restored'), 'restore', file)
    const missing = lost('trial_restored', before)
    if (missing) throw new Error(`${missing} of ${before.size} sheets are not in the backup`)
  })
  await server.stop()
  await pruvex(url, 'backup', file)
  await pruvex(freshDatabase('trial_restored'), 'restore', file)
  const [original, restored] = [content('trial_backup'), content('trial_restored')]
  const differ = [...original].filter(([table, rows]) => restored.get(table) !== rows).map(([table]) => table)
  const size = Math.round(statSync(file).size / 1e6)
  return {
    ok: differ.length === 0 && refusals.length === 0,
    list,
    said: `backup of ${size} MB under 4 writers (${ledger.size} sheets), restored: ${original.size} tables, ${differ.length} differ${differ.length ? ` (${differ})` : ''}`,
  }
}

export async function twoInstances(large, more) {
  const url = freshDatabase('trial_two')
  await pruvex(url, 'import', large)
  const [one, other] = [await Server.start(url, '--demo'), await Server.start(url, '--demo')]
  const [here, there] = [await one.enter('author'), await other.enter('author')]
  await there.get('/tests?limit=1&region=knee')
  let stale = 0
  for (let round = 0; round < 20; round += 1) {
    const name = `Seen elsewhere ${round}`
    const made = await here.post('/tests', sheet(name))
    const listed = await there.get('/tests?region=hand_wrist&sort=name')
    if (!listed.json.some((row) => row.id === made.json.id)) stale += 1
  }
  let winners = 0
  const rounds = 10
  for (let round = 0; round < rounds; round += 1) {
    const { json } = await here.post('/tests', sheet(`Contested ${round}`))
    const savers = Array.from({ length: 10 }, (_, n) => (n % 2 ? here : there).put(`/tests/${json.id}`, 1, sheet(`Contested ${round} by ${n}`)))
    winners += (await Promise.all(savers)).filter((answer) => answer.status === 200).length
  }
  // One is killed in the middle of an import; the other serves on, and nothing of the import is there.
  const before = sql('trial_two', 'SELECT count(*) FROM test')
  const { list, refusals } = await besideReaders(other, async () => {
    const { json } = await here.ask('POST', '/bundle-imports', readFileSync(more, 'utf8'))
    await pause(4000)
    const { json: under } = await here.get(`/imports/${json.id}`)
    if (under.state !== 'busy') throw new Error(`the import was to be killed in its middle: ${under.state}`)
    await one.kill()
  })
  const after = sql('trial_two', 'SELECT count(*) FROM test')
  await other.stop()
  const half = Number(after) - Number(before)
  return {
    ok: stale === 0 && winners === rounds && half === 0 && refusals.length === 0,
    list,
    said: `two servers on one database: ${stale} of 20 changes not seen at once by the other; ${winners} winners of ${rounds} versions saved by ten each; one killed in an import left ${half} tests`,
  }
}
