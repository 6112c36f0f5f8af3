/** Tells a choice while a hand or the keyboard rests on it, and when the hand leaves it. */
export const nearBy = <T>(tell: (choice: T | null) => void, choice: () => T) => ({
  onMouseenter: () => tell(choice()),
  onMouseleave: () => tell(null),
  onFocus: () => tell(choice()),
})

/** The values with one more, or without it. */
export const turned = (values: string[], value: string) =>
  values.includes(value) ? values.filter((it) => it !== value) : [...values, value]
