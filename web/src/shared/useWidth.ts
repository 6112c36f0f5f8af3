import { useEventListener, useResizeObserver } from '@vueuse/core'
import { ref, type Ref } from 'vue'

/** What a sheet of A4 or letter paper holds between its margins, in pixels. */
const PAPER = 700

/**
 * The width of an element in whole pixels, kept up to date; while it is printed, what its column of a table has on paper, about. Anything
 * else keeps its width, and style sheets scale it where it does not fit.
 */
export function useWidth(element: Ref<HTMLElement | null>, fallback: number): Ref<number> {
  const width = ref(fallback)
  let onScreen = fallback
  useResizeObserver(element, ([entry]) => {
    if (entry && entry.contentRect.width > 0) width.value = onScreen = Math.floor(entry.contentRect.width)
  })
  // Scaled to paper instead, its words would be too small to read.
  useEventListener('beforeprint', () => {
    const table = element.value?.closest('table')
    if (table?.clientWidth) width.value = Math.floor((onScreen * PAPER) / table.clientWidth)
  })
  useEventListener('afterprint', () => (width.value = onScreen))
  return width
}
