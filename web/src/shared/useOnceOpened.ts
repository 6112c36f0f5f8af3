import { type Ref, ref, watch } from 'vue'

/** True from the first time that it is open: a dialog nobody has asked for yet takes no time of a page's opening. */
export function useOnceOpened(open: () => boolean): Ref<boolean> {
  const asked = ref(open())
  watch(open, (now) => (asked.value ||= now))
  return asked
}
