import { reactive } from 'vue'

/** The last change that can be taken back, offered in a bar at the foot of the page. */
export const undoBar = reactive({
  open: false,
  message: '',
  action: null as (() => Promise<void>) | null,

  offer(message: string, action: (() => Promise<void>) | null = null) {
    undoBar.message = message
    undoBar.action = action
    undoBar.open = true
  },
})
