import { reactive } from 'vue'

export const shortcutSheet = reactive({ open: false })
