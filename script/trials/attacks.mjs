// Who has no account, or means no good, gets nothing and stops nobody.

import { connect } from 'node:net'

import { Server, besideReaders, freshDatabase, pause, pruvex, sheet, spread } from './server.mjs'

const POST = (server, path, body, headers = {}) =>
  fetch(`${server.address}/api/v1${path}`, { method: 'POST', headers: { 'Content-Type': 'application/json', ...headers }, body: JSON.stringify(body) })

export async function signInFlood(large) {
  const url = freshDatabase('trial_flood')
  await pruvex(url, 'import', large)
  const server = await Server.start(url)
  const secret = (await server.says(/first administrator: \S+#(\S+)/)).trim()
  const password = 'kiln otter vague lantern'
  await POST(server, '/join', { secret, login: 'keeper', name: 'Keeper', password })
  const demo = await Server.start(url, '--demo')
  // Read ahead first, so that what the flood takes is seen alone.
  await pause(15_000)
  const before = server.memory
  const counted = new Map()
  const waits = []
  const { list, refusals } = await besideReaders(demo, async () => {
    const guess = async (n) => {
      const start = performance.now()
      const answer = await POST(server, '/session', { login: 'keeper', password: `guess number ${n}` })
      await answer.text()
      waits.push(performance.now() - start)
      counted.set(answer.status, (counted.get(answer.status) ?? 0) + 1)
      if (answer.status !== 401 && !answer.headers.get('retry-after')) counted.set('no Retry-After', 1)
    }
    for (let wave = 0; wave < 5; wave += 1) {
      await Promise.all(Array.from({ length: 200 }, (_, n) => guess(200 * wave + n)))
      await pause(500)
    }
  })
  await pause(5000)
  const [after, peak] = [server.memory, server.memoryPeak]
  await Promise.all([server.stop(), demo.stop()])
  const tried = counted.get(401) ?? 0
  return {
    ok: tried <= 5 && after - before <= 100 && !counted.has('no Retry-After') && refusals.length === 0,
    list,
    said: `1 000 wrong passwords in waves of 200: ${tried} looked at, ${counted.get(429) ?? 0} answered 429, ${counted.get(503) ?? 0} answered 503; slowest answer ${spread(waits).max} ms; memory ${before} MB before, ${peak} at most, ${after} after`,
  }
}

export async function slowClients(large) {
  const url = freshDatabase('trial_slow')
  await pruvex(url, 'import', large)
  const server = await Server.start(url, '--demo')
  await server.ready()
  const author = await server.enter('author')
  const { hostname, port } = new URL(server.address)
  const sockets = []
  const { list, refusals } = await besideReaders(server, async () => {
    const open = (text) =>
      new Promise((done) => {
        const socket = connect(Number(port), hostname, () => socket.write(text, () => done()))
        socket.on('error', () => done())
        sockets.push(socket)
      })
    // Heads that never end, connections that say nothing, bodies that stop.
    const body = `POST /api/v1/table-imports/columns HTTP/1.1\r\nHost: ${hostname}:${port}\r\nCookie: ${author.cookie}\r\nContent-Length: 1000000\r\n\r\nabc`
    for (let n = 0; n < 1000; n += 50) {
      await Promise.all(Array.from({ length: 50 }, (_, i) => open(i === 0 ? body : i % 2 ? 'GET /api/v1/tests HTTP/1.1\r\nHost: x\r\nX-A: ' : '')))
    }
    await pause(8000)
    const columns = await author.ask('POST', '/table-imports/columns', 'test,reference,tp,fp,fn,tn\nThumb lift,Sample,1,2,3,4\n')
    if (columns.status !== 200) throw new Error(`a table beside unfinished ones answered ${columns.status}: ${columns.text}`)
    await pause(8000)
  })
  const memory = server.memory
  sockets.forEach((socket) => socket.destroy())
  await server.stop()
  return {
    ok: list.p95 <= 150 && refusals.length === 0,
    list,
    said: `1 000 connections that send half a request or nothing, 20 of them half an upload: ${refusals.length} readers refused, another upload went through, memory ${memory} MB`,
  }
}

export async function amplification(large) {
  const url = freshDatabase('trial_faults')
  await pruvex(url, 'import', large)
  const server = await Server.start(url, '--demo')
  const author = await server.enter('author')
  await author.get('/tests?limit=1')
  const before = server.memory
  const head = '{"format":"pruvex-bundle","schema_version":2,"title":"Empty","sample":true,"tests":['
  const strings = Array.from({ length: 60 }, (_, n) => `@string{s${n + 1} = s${n} # s${n}}`).join('\n')
  const sent = [
    ['bundle of 19 MB of {}', '/bundle-imports', `${head}${'{},'.repeat(6_300_000)}{}]}`],
    ['bundle of empty sheets', '/bundle-imports', `${head}${'{"sheet":{}},'.repeat(400_000)}{"sheet":{}}]}`],
    ['5 MB of empty references', '/reference-imports', `[${'{},'.repeat(1_700_000)}{}]`],
    ['nested @string', '/reference-imports', `@string{s0 = {x}}\n${strings}\n@article{a, title = s60}\n`],
    ['@string in a circle', '/reference-imports', '@string{a = b}\n@string{b = a}\n@article{x, title = a}\n'],
    ['entries linked in a circle', '/reference-imports?preview=true', '@book{a, title={A}, crossref={b}}\n@book{b, title={B}, crossref={a}}\n'],
    ['table of 200 000 rows of faults', '/table-imports?preview=true&columns=A:test,B:tp', `test,tp\n${'x,y\n'.repeat(200_000)}`],
  ]
  const told = []
  let ok = true
  const { list, refusals } = await besideReaders(server, async () => {
    for (const [what, path, body] of sent) {
      const start = performance.now()
      let answer = await author.ask('POST', path, body).catch((cause) => {
        throw new Error(`${what}: ${cause.message} ${cause.cause ?? ''}`)
      })
      if (answer.json?.state) answer = await ended(author, answer)
      const seconds = (performance.now() - start) / 1000
      ok &&= answer.status < 500 && answer.text.length < 500_000 && seconds < 20
      told.push(`${what}: ${answer.json?.state ?? answer.status}, ${Math.ceil(answer.text.length / 1000)} kB in ${seconds.toFixed(1)} s`)
    }
  })
  const [peak, after] = [server.memoryPeak, server.memory]
  await server.stop()
  return {
    ok: ok && peak < 1500 && refusals.length === 0,
    list,
    said: `${told.join('; ')}; memory ${before} MB before, ${peak} at most, ${after} after`,
  }
}

/** How an import that goes on by itself ended. */
async function ended(author, answer) {
  while (['waiting', 'busy'].includes(answer.json?.state)) {
    await pause(50)
    answer = await author.get(`/imports/${answer.json.id}`)
  }
  return answer
}

/** An import beside people who save and people who read. */
export async function importBeside(large, more) {
  const url = freshDatabase('trial_import')
  await pruvex(url, 'import', large)
  const server = await Server.start(url, '--demo')
  const author = await server.enter('author')
  await author.get('/tests?limit=1')
  await pause(8000)
  const counted = new Map()
  const waits = []
  let seconds = 0
  const { list, refusals } = await besideReaders(server, async () => {
    const start = performance.now()
    let going = true
    const importing = pruvex(url, 'import', more).then((said) => {
      going = false
      seconds = (performance.now() - start) / 1000
      return said
    })
    await pause(1500)
    const writer = async (number) => {
      for (let turn = 0; going; turn += 1) {
        const began = performance.now()
        const made = await author.post('/tests', sheet(`Beside an import ${number} ${turn}`))
        waits.push(performance.now() - began)
        counted.set(made.status, (counted.get(made.status) ?? 0) + 1)
        await pause(300)
      }
    }
    await Promise.all([importing, ...Array.from({ length: 12 }, (_, number) => writer(number))])
  })
  await server.stop()
  const odd = [...counted.keys()].filter((status) => ![201, 503].includes(status))
  return {
    ok: odd.length === 0 && refusals.length === 0 && list.p95 <= 150,
    list,
    said: `import of ${seconds.toFixed(0)} s beside 12 who save: ${counted.get(201) ?? 0} saved, ${counted.get(503) ?? 0} told to try again (after ${spread(waits).max} ms at most), others ${odd.length}`,
  }
}

