import { reactive } from 'vue'

/** The guide over the page that somebody is on: the page of it that fits there, once it is asked for. */
export const guide = reactive({ open: false })
