// People who look through the list, in a thread of their own: what the others are busy with must not count as their waiting.

import { parentPort, workerData } from 'node:worker_threads'

import { Person, REGIONS, pause } from './server.mjs'

const { address, cookie, readers } = workerData
const somebody = new Person(address, cookie)
const [times, refusals] = [[], []]
let going = true
parentPort.once('message', () => (going = false))
const reading = Array.from({ length: readers }, async (_, number) => {
  await pause((number * 1000) / readers)
  for (let turn = number; going; turn += 1) {
    const start = performance.now()
    const ask = somebody.get(`/tests?limit=100&region=${REGIONS[turn % 9]}`)
    const answer = await ask.catch((cause) => ({ status: `${cause.cause?.code ?? cause}` }))
    times.push(performance.now() - start)
    if (answer.status !== 200) refusals.push(answer.status)
    await pause(600)
  }
})
await Promise.all(reading)
parentPort.postMessage({ times, refusals })
