import { beforeEach, describe, expect, it } from 'vitest'
import { nextTick } from 'vue'

import { guide } from '@/shared/guide'
import { enter, eventually, mounted } from '@/shared/mount.setup'
import { router } from '@/shared/router'
import { text } from '@/shared/text'
import FirstVisit from './FirstVisit.vue'
import { firstVisit } from './firstVisit'
import GuideDialog from './GuideDialog.vue'
import { guidePages, search } from './guidePages'

const links = (html: string) => [...html.matchAll(/<a href="([^"]*)"/g)].map(([, href]) => href!)
const keys = new Set(guidePages.map(({ key }) => key))

describe('the guide', () => {
  it('has a short name for every page, in the order of the work', () => {
    const named = Object.keys(text.guide.pages)
    expect(guidePages.map(({ key }) => key)).toEqual(named)
    expect(guidePages.every(({ title, blocks }) => title && blocks.length > 3)).toBe(true)
  })

  it('leads nowhere that is not there: every link is a page of it or a view of the application', () => {
    for (const page of guidePages)
      for (const href of links(page.html)) {
        if (href.startsWith('https:')) continue
        const to = router.resolve(href.replaceAll('&amp;', '&'))
        expect(to.matched.length && to.name !== 'lost', `${page.key}: ${href}`).toBe(true)
        if (to.name === 'guide') expect(keys, `${page.key}: ${href}`).toContain(to.params.page)
      }
  })

  it('has a page for every view', () => {
    for (const { name, meta } of router.getRoutes())
      if (meta.guide) expect(keys, String(name)).toContain(meta.guide)
    const without = router.getRoutes().filter(({ meta, redirect }) => !meta.guide && !redirect)
    expect(without.map(({ name }) => name).sort()).toEqual(['guide', 'join', 'lost', 'reset'])
  })

  it('shows markup as words', () => {
    expect(guidePages.some(({ html }) => /<script|onerror/.test(html))).toBe(false)
  })

  it('finds paragraphs that hold all words, however they are written', () => {
    const found = search('PREDICTION  interval')
    expect(found.length).toBeGreaterThan(3)
    for (const { page, block } of found) {
      const said = page.blocks[block]!.toLowerCase()
      expect(said.includes('prediction') && said.includes('interval')).toBe(true)
      expect(page.html, 'and leads to them').toContain(`id="guide-${block}"`)
    }
    expect(found[0]!.page.kind, 'guides before methods').toBe('guide')
    expect(search('no such word anywhere'), 'nothing is said to be found').toEqual([])
    expect(search('  ')).toEqual([])
  })

  it('opens at the page that fits, over the page where somebody is, and closes when a link leads out of it', async () => {
    enter(['read'])
    const { wrapper, router: here } = await mounted(GuideDialog)
    here.currentRoute.value.meta.guide = 'pooling'
    guide.open = true
    const said = () => document.querySelector('[data-test=guide-page]')?.textContent ?? ''
    await eventually(() => expect(said()).toContain('third step of the path'))
    document.querySelector<HTMLElement>('[data-test=guide-start]')!.click()
    await eventually(() => expect(said()).toContain('With the sample data'))
    expect(here.currentRoute.value.name, 'the page below stays').toBe('catalogue')
    document.querySelector<HTMLElement>('[data-test=guide-page] a[href^="/likelihood?"]')!.click()
    await eventually(() => expect(guide.open).toBe(false))
    await eventually(() => expect(here.currentRoute.value.path).toBe('/likelihood'))
    wrapper.unmount()
  })
})

describe('the first visit', () => {
  beforeEach(() => {
    localStorage.clear()
    Object.assign(firstVisit, { step: 0, ended: false })
  })

  it('leads from page to page and ends for good', async () => {
    enter(['read'])
    const { wrapper, router: here } = await mounted(FirstVisit)
    const next = () => wrapper.get('[data-test=visit-next]').trigger('click')
    for (const { title, to } of text.guide.visit.steps.slice(1)) {
      await next()
      await eventually(() => expect(here.currentRoute.value.fullPath).toBe(to))
      expect(wrapper.text()).toContain(title)
    }
    await next()
    expect(wrapper.find('[data-test=first-visit]').exists()).toBe(false)
    expect(localStorage.getItem('pruvex-first-visit')).toBe('ended')
  })

  it('is left at once by whoever does not want it', async () => {
    enter(['read'])
    const { wrapper } = await mounted(FirstVisit)
    await wrapper.get('[data-test=visit-end]').trigger('click')
    await nextTick()
    expect(wrapper.find('[data-test=first-visit]').exists()).toBe(false)
    expect(localStorage.getItem('pruvex-first-visit')).toBe('ended')
  })
})
