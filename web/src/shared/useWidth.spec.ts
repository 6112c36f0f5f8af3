import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { defineComponent, h, ref } from 'vue'

import { printPage } from './printPage'
import { useWidth } from './useWidth'

describe('the width of a figure', () => {
  it('is that of its column, and about that of its column on paper while it is printed', async () => {
    let resized: ResizeObserverCallback = () => {}
    class Observer {
      constructor(callback: ResizeObserverCallback) {
        resized = callback
      }
      observe() {}
      unobserve() {}
      disconnect() {}
    }
    vi.stubGlobal('ResizeObserver', Observer)
    const Figure = defineComponent(() => {
      const place = ref<HTMLElement | null>(null)
      const width = useWidth(place, 460)
      return () => h('table', [h('td', { ref: place }, String(width.value))])
    })
    const wrapper = mount(Figure)
    const says = async (width: string) => {
      await wrapper.vm.$nextTick()
      expect(wrapper.text()).toBe(width)
    }
    await says('460')
    Object.defineProperty(wrapper.element, 'clientWidth', { value: 1400 })
    const to = (width: number) =>
      resized([{ contentRect: { width } } as ResizeObserverEntry], {} as ResizeObserver)
    to(600.7)
    await says('600')
    to(0)
    await says('600')
    let printed = ''
    vi.stubGlobal('print', () => (printed = wrapper.text()))
    await printPage()
    expect(printed, 'it is drawn before the page is printed').toBe('300')
    window.dispatchEvent(new Event('afterprint'))
    await says('600')
    wrapper.unmount()
    vi.unstubAllGlobals()
  })
})
