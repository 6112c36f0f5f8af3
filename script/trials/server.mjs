// A server and a database to be killed, and what is asked of them.

import { spawn, execFileSync } from 'node:child_process'
import { readFileSync, rmSync } from 'node:fs'
import { Worker } from 'node:worker_threads'

const { DB_URL, DB_DIR, PG_BIN, PRUVEX_BIN, SCRATCH } = process.env
export { SCRATCH }

export const pause = (milliseconds) => new Promise((done) => setTimeout(done, milliseconds))

/** PostgreSQL's tools, on a database of the cluster. */
export function sql(database, statement) {
  const run = [`${DB_URL}/${database}`, '-qAt', '-v', 'ON_ERROR_STOP=1', '-c', statement]
  return execFileSync(`${PG_BIN}/psql`, run, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] }).trim()
}

export function freshDatabase(name) {
  sql('postgres', `DROP DATABASE IF EXISTS ${name} WITH (FORCE)`)
  sql('postgres', `CREATE DATABASE ${name}`)
  return `${DB_URL}/${name}`
}

/** The program, once; answers what it said. */
export function pruvex(url, ...commands) {
  return new Promise((done, fail) => {
    const child = spawn(PRUVEX_BIN, commands, { env: { ...process.env, DATABASE_URL: url } })
    let said = ''
    child.stdout.on('data', (text) => (said += text))
    child.stderr.on('data', (text) => (said += text))
    child.on('close', (code) => (code === 0 ? done(said) : fail(new Error(`pruvex ${commands.join(' ')}: ${said}`))))
  })
}

/** All that run: one that a broken trial left behind would disturb the next. */
const running = new Set()
export const stopAll = () => Promise.all([...running].map((server) => server.kill()))

export class Server {
  /** Starts and waits until it answers. */
  static async start(url, ...options) {
    const server = new Server()
    server.url = url
    server.child = spawn(PRUVEX_BIN, ['serve', '--port', '0', ...options], {
      env: { ...process.env, DATABASE_URL: url },
      stdio: ['ignore', 'pipe', 'ignore'],
    })
    running.add(server)
    server.ended = new Promise((done) => server.child.on('close', done)).then(() => running.delete(server))
    server.said = ''
    server.child.stdout.on('data', (text) => (server.said += text))
    await server.says(/^listening on (\S+)/m).then((address) => (server.address = address))
    for (;;) {
      const answer = await fetch(`${server.address}/readyz`).catch(() => null)
      if (answer?.ok) return server
      await pause(30)
    }
  }

  async says(words) {
    for (let waited = 0; waited < 60_000; waited += 20) {
      const found = this.said.match(words)
      if (found) return found[1]
      await pause(20)
    }
    throw new Error(`the server did not say ${words}: ${this.said}`)
  }

  /** Waits until the catalogue has been read: whoever comes before that waits for it. */
  async ready() {
    await (await this.enter()).get('/tests?limit=1')
  }

  /** Resident memory in megabytes. */
  get memory() {
    const status = readFileSync(`/proc/${this.child.pid}/status`, 'utf8')
    return Math.round(Number(status.match(/VmRSS:\s+(\d+)/)[1]) / 1024)
  }

  /** Its most. */
  get memoryPeak() {
    const status = readFileSync(`/proc/${this.child.pid}/status`, 'utf8')
    return Math.round(Number(status.match(/VmHWM:\s+(\d+)/)[1]) / 1024)
  }

  async kill() {
    this.child.kill('SIGKILL')
    await this.ended
  }

  async stop() {
    this.child.kill('SIGTERM')
    await this.ended
  }

  /** Somebody of this role, in the demonstration. */
  async enter(role = 'author') {
    const answer = await fetch(`${this.address}/api/v1/session/demo`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ role }),
    })
    if (!answer.ok) throw new Error(`entering answered ${answer.status}: ${await answer.text()}`)
    return new Person(this.address, answer.headers.get('set-cookie').split(';')[0])
  }
}

export class Person {
  constructor(address, cookie) {
    this.address = address
    this.cookie = cookie
  }

  async ask(method, path, body, headers = {}) {
    const answer = await fetch(`${this.address}/api/v1${path}`, {
      method,
      headers: { Cookie: this.cookie, 'Content-Type': 'application/json', ...headers },
      body: body === undefined || typeof body === 'string' ? body : JSON.stringify(body),
    })
    const text = await answer.text()
    let json = null
    try {
      json = JSON.parse(text)
    } catch {
      // Not every answer is one.
    }
    return { status: answer.status, json, text, headers: answer.headers }
  }

  get(path) {
    return this.ask('GET', path)
  }

  post(path, body) {
    return this.ask('POST', path, body)
  }

  put(path, version, body) {
    return this.ask('PUT', path, body, { 'If-Match': `"${version}"` })
  }
}

export const sheet = (name) => ({
  name,
  region: 'hand_wrist',
  purpose: 'strength',
  condition: 'Sample condition 3',
  positive_finding: 'Weaker than the other side',
})

/** PostgreSQL, killed without a word and started again on what it left. */
export async function killDatabase() {
  const pid = Number(readFileSync(`${DB_DIR}/data/postmaster.pid`, 'utf8').split('\n')[0])
  const port = new URL(DB_URL.replace('postgres:', 'http:')).port
  process.kill(pid, 'SIGKILL')
  // Its children end when they notice; a new one refuses to start beside them.
  for (let tries = 0; tries < 100; tries += 1) {
    rmSync(`${DB_DIR}/data/postmaster.pid`, { force: true })
    const as = process.getuid() === 0 ? ['setpriv', '--reuid=postgres', '--regid=postgres', '--init-groups'] : []
    const command = [...as, `${PG_BIN}/postgres`, '-D', `${DB_DIR}/data`, '-p', port]
    const options = ['listen_addresses=127.0.0.1', 'unix_socket_directories=', 'max_connections=300']
    const child = spawn(command[0], [...command.slice(1), ...options.flatMap((option) => ['-c', option])], {
      cwd: DB_DIR,
      detached: true,
      stdio: 'ignore',
    })
    child.unref()
    for (let waited = 0; waited < 40; waited += 1) {
      await pause(50)
      try {
        if (sql('postgres', 'SELECT 1') === '1') return
      } catch {
        if (child.exitCode !== null) break
      }
    }
  }
  throw new Error('PostgreSQL did not come back')
}

/** Milliseconds at which a share of the times lies, and their number. */
export function spread(times) {
  const sorted = [...times].sort((a, b) => a - b)
  const at = (share) => Math.round(sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))] ?? 0)
  return { n: sorted.length, p50: at(0.5), p95: at(0.95), max: at(1) }
}

export const REGIONS = ['neck', 'shoulder', 'elbow', 'hand_wrist', 'trunk_back', 'pelvis', 'hip', 'knee', 'ankle_foot']

/** Twenty people who look through the list while something else goes on; answers how long they waited. */
export async function besideReaders(server, work, readers = 20) {
  const { address, cookie } = await server.enter('learner')
  const worker = new Worker(new URL('readers.mjs', import.meta.url), { workerData: { address, cookie, readers } })
  const read = new Promise((done, fail) => worker.once('message', done).once('error', fail))
  try {
    await pause(1200)
    await work()
    await pause(1200)
  } finally {
    worker.postMessage('stop')
  }
  const { times, refusals } = await read
  return { list: spread(times), refusals }
}
