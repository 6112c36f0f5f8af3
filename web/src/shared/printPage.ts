import { nextTick } from 'vue'

/** Prints the page. Figures are told before, since a browser does not wait for what they draw anew while a script runs. */
export async function printPage(): Promise<void> {
  window.dispatchEvent(new Event('beforeprint'))
  await nextTick()
  window.print()
}
