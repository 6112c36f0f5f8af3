import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import { defineComponent, h, ref } from 'vue'

import type { StructureRow } from '@/shared/api/types'
import { enter, mounted, problem, serve } from '@/shared/mount.setup'
import StructureDialog from './StructureDialog.vue'

const abductor = {
  id: 'a',
  version: 3,
  region: 'hand_wrist',
  name: 'Short thumb abductor',
  other_names: [],
  tissue: 'muscle',
  actions: [{ joint: 'thumb_base', motion: 'abduction' }],
  retired: false,
  tests: 1,
} as unknown as StructureRow

/** The dialog opened over a page, for a structure or for a new one. */
async function dialog(structure: StructureRow | null, answers: Record<string, unknown>) {
  enter()
  const asked = serve(answers)
  const open = ref(false)
  const host = defineComponent({
    render: () =>
      h(StructureDialog, {
        open: open.value,
        'onUpdate:open': (to: boolean) => (open.value = to),
        structure,
        region: 'hand_wrist',
      }),
  })
  await mounted(host)
  open.value = true
  await flushPromises()
  const body = () => document.querySelector('[data-test=structure-dialog]')
  const name = async (value: string) => {
    const field = body()?.querySelector<HTMLInputElement>('[data-test=structure-name] input')
    if (!field) throw new Error('no name')
    field.value = value
    field.dispatchEvent(new Event('input'))
    await flushPromises()
  }
  const save = async () => {
    body()?.querySelector('form')?.dispatchEvent(new Event('submit'))
    await flushPromises()
    await flushPromises()
  }
  const changes = () => asked.filter((one) => one.method !== 'GET')
  return { open, body, name, save, changes }
}

describe('a structure of the vocabulary', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('is saved at the version that was read, with its actions', async () => {
    const { open, name, save, changes } = await dialog(abductor, { 'PUT /structures/a': abductor })
    await name('Thumb abductor')
    await save()
    const [sent] = changes()
    expect(sent?.headers.get('If-Match')).toBe('"3"')
    expect(sent?.body).toMatchObject({ name: 'Thumb abductor', actions: abductor.actions, retired: false })
    expect(open.value).toBe(false)
  })

  it('keeps what was typed when somebody else was faster, and saves over the newer version when told again', async () => {
    let answer: unknown = problem(412, 'changed_meanwhile')
    const { open, body, name, save, changes } = await dialog(abductor, { 'PUT /structures/a': () => answer })
    await name('Mine')
    await save()
    expect(open.value).toBe(true)
    expect(body()?.textContent).toContain('Somebody else has changed this entry')
    answer = abductor
    await save()
    expect(changes().map((one) => one.headers.get('If-Match'))).toEqual(['"3"', '"5"'])
    expect(changes()[1]?.body).toMatchObject({ name: 'Mine' })
  })

  it('names what is wrong beside the field, and adds nothing', async () => {
    const fault = {
      field: 'name',
      code: 'missing' as const,
      value: '',
      message: 'This field is empty.',
      remedy: 'Name it.',
    }
    const { open, body, save } = await dialog(null, {
      'POST /structures': () => problem(422, 'fields_invalid', [fault]),
    })
    await save()
    expect(open.value).toBe(true)
    expect(body()?.querySelector('[data-test=structure-name]')?.textContent).toContain(
      'This field is empty. Name it.',
    )
  })

  it('drops the actions of what is no muscle', async () => {
    const { save, changes } = await dialog({ ...abductor, tissue: 'nerve' } as StructureRow, {
      'PUT /structures/a': abductor,
    })
    await save()
    expect(changes()[0]?.body).toMatchObject({ tissue: 'nerve', actions: [] })
  })
})
