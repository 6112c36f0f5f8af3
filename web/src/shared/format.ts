import type { FigureEstimate, Ratio, RatioEstimate, ShareEstimate } from './api/types'

/** A narrow space that does not break between a number and its sign. */
const THIN = '\u202f'
const ROUGHLY_ALL = 0.9995

/** Per cent with sensible digits: whole in the middle, one decimal near the ends, never a rounded 0 or 100. */
export function percent(p: number): string {
  if (p === 0 || p === 1) return `${100 * p}${THIN}%`
  if (p < 1 - ROUGHLY_ALL) return `<${THIN}0.1${THIN}%`
  if (p > ROUGHLY_ALL) return `>${THIN}99.9${THIN}%`
  return `${bare(p)}${THIN}%`
}

function bare(p: number): string {
  if (p === 0 || p === 1) return String(100 * p)
  const digits = p < 0.0995 || p > 0.9005 ? 1 : 0
  return (100 * p).toFixed(digits)
}

/** The point; a probability of 0 or 1 rests on a ratio without a finite bound: say the bound the data do support. */
export function percentPoint({ estimate, lower, upper }: ShareEstimate): string {
  if (estimate === 1 && lower < 1) return `>${THIN}${percent(lower)}`
  if (estimate === 0 && upper > 0) return `<${THIN}${percent(upper)}`
  return percent(estimate)
}

/** The probability that the data support: a point of 1 or 0 rests on an empty cell, and its bound stands in for it. */
export function supported({ estimate, lower, upper }: ShareEstimate): number {
  if (estimate === 1) return lower
  return estimate === 0 ? upper : estimate
}

/** A confidence level, `95 %`. */
export function levelPercent(level: number): string {
  return `${Number((100 * level).toFixed(2))}${THIN}%`
}

/** `54–67 %`: whole numbers unless it is narrow, or a bound would turn into a false 0 or 100. */
export function percentInterval({ lower, upper }: ShareEstimate): string {
  const wide = upper - lower > 0.1
  const bound = (p: number) => {
    const short = (100 * p).toFixed(0)
    const honest = p === 0 || p === 1 || (short !== '0' && short !== '100')
    return wide && honest ? short : bare(p)
  }
  return `${bound(lower)}–${bound(upper)}${THIN}%`
}

/** A ratio with two significant digits. */
export function ratio(value: Ratio): string {
  if (value === 'infinity') return '∞'
  if (value === 0) return '0'
  if (value >= 100_000) return `>${THIN}${whole(100_000)}`
  if (value >= 1000) return whole(Number(value.toPrecision(2)))
  if (value < 0.001) return '<' + THIN + '0.001'
  return value >= 100 ? value.toFixed(0) : String(Number(value.toPrecision(2)).toFixed(decimals(value)))
}

function decimals(value: number): number {
  return Math.max(0, 1 - Math.floor(Math.log10(Number(value.toPrecision(2)))))
}

/** The point; when it is infinite or zero, the bound that the data do support. */
export function ratioPoint({ estimate, lower, upper }: RatioEstimate): string {
  if (estimate === 'infinity') return `>${THIN}${ratio(lower)}`
  if (estimate === 0) return `<${THIN}${ratio(upper)}`
  return ratio(estimate)
}

export function ratioInterval({ lower, upper }: RatioEstimate): string {
  return `${ratio(lower)}–${ratio(upper)}`
}

export function finite(value: Ratio): number {
  return value === 'infinity' ? Infinity : value
}

/** Whether a ratio raises the probability: on which side of 1 it stands. */
export const raises = (ratio: RatioEstimate | null | undefined) => !!ratio && finite(ratio.estimate) >= 1

/** A coefficient of agreement with two digits; never a rounded 1. */
export function coefficient(value: number): string {
  if (value < 1 && value >= 0.995) return `>${THIN}0.99`
  return signed(value.toFixed(2))
}

/** `0.55–0.83` (a large-sample bound beyond 1 is 1), and `−0.10 to 0.32` where a sign would be read as a range. */
export function coefficientInterval({ lower, upper }: FigureEstimate): string {
  return `${coefficient(lower)}${lower < 0 || (upper >= 0.995 && upper < 1) ? ' to ' : '–'}${coefficient(Math.min(upper, 1))}`
}

/** A measured quantity with three significant digits. */
export function quantity(value: number): string {
  return signed(String(Number(value.toPrecision(3))))
}

const signed = (digits: string) => (Number(digits) === 0 ? digits.replace('-', '') : digits.replace('-', '−'))

/** 12 345 with thin spaces. */
export function whole(value: number): string {
  // By hand: the first use of the browser's own formatter takes 50 ms of a page's opening.
  return String(value).replace(/\B(?=(\d{3})+$)/g, THIN)
}

/** A date and the time of day. */
export function moment(iso: string): string {
  const options = { dateStyle: 'medium', timeStyle: 'short' } as const
  return new Date(iso).toLocaleString('en-GB', options)
}

/** A date as people here write it; the time of day is left out. */
export function day(iso: string): string {
  return new Date(iso).toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' })
}

/** A share as a number in per cent as it is typed into a field: at most so many decimals, no noughts at the end. */
export const typedPercent = (share: number, digits = 1): string =>
  String(Number((100 * share).toFixed(digits)))

/** A number with so many decimals, and a minus that is one. */
export const withDecimals = (value: number, digits: number): string => value.toFixed(digits).replace('-', '−')
