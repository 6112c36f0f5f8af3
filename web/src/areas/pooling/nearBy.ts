/** Tells when a hand or the keyboard comes to rest on an entry of a list, and when the hand leaves it. */
export const nearBy = (tell: (here: boolean) => void) => ({
  onMouseenter: () => tell(true),
  onMouseleave: () => tell(false),
  onFocus: () => tell(true),
})

/** The values with one more, or without it. */
export const turned = (values: string[], value: string) =>
  values.includes(value) ? values.filter((it) => it !== value) : [...values, value]
