import { onBeforeUnmount, onMounted, ref, type Ref } from 'vue'

/** The width of an element in whole pixels, kept up to date. */
export function useWidth(element: Ref<HTMLElement | null>, fallback: number): Ref<number> {
  const width = ref(fallback)
  const observer = new ResizeObserver(([entry]) => {
    if (entry && entry.contentRect.width > 0) width.value = Math.floor(entry.contentRect.width)
  })
  onMounted(() => element.value && observer.observe(element.value))
  onBeforeUnmount(() => observer.disconnect())
  return width
}
