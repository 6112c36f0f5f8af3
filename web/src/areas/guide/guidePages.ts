import MarkdownIt from 'markdown-it'

import { text } from '@/shared/text'

/** The guides and methods of `docs/`, as pages that can be read and searched. Fetched with the guide's own script, never before. */
const guides = import.meta.glob<string>('../../../../docs/guide/*.md', {
  query: '?raw',
  import: 'default',
  eager: true,
})
const methods = import.meta.glob<string>('../../../../docs/methods/*.md', {
  query: '?raw',
  import: 'default',
  eager: true,
})

/** Where the guides say that the demonstration runs: what follows it is an address in this application. */
const DEMO = 'http://127.0.0.1:8460'

export interface GuidePage {
  key: string
  title: string
  kind: 'guide' | 'methods'
  html: string
  /** Its paragraphs, headings and rows as plain words; the n-th stands in the element with the id `guide-n`. */
  blocks: string[]
}

const markdown = new MarkdownIt()
const nameOf = (path: string) => path.split('/').pop()!.replace('.md', '')
const keyOf = (kind: GuidePage['kind'], name: string) => (kind === 'methods' ? `methods-${name}` : name)

/** The address in the application of what a guide links to; null for what it does not hold. */
function address(href: string, kind: GuidePage['kind']): string | null {
  if (href.startsWith(DEMO)) return href.slice(DEMO.length)
  const page = /^(\.\.\/(guide|methods)\/)?([\w-]+)\.md$/.exec(href)
  if (!page) return null
  const of = (page[2] ?? kind) as GuidePage['kind']
  const path = `../../../../docs/${of}/${page[3]}.md`
  return path in guides || path in methods ? `/guide/${keyOf(of, page[3]!)}` : null
}

function page(kind: GuidePage['kind'], path: string, source: string): GuidePage {
  const tokens = markdown.parse(source, {})
  const blocks: string[] = []
  let title = ''
  tokens.forEach((token, at) => {
    // It may scroll sideways, then the keyboard has to reach it.
    if (token.type === 'table_open') token.attrSet('tabindex', '0')
    if (token.type !== 'inline') return
    const opening = tokens[at - 1]!
    if (opening.tag === 'h1') title = token.content
    // The paragraph of a short entry of a list is no element of its own.
    const element = opening.hidden ? tokens[at - 2]! : opening
    element.attrSet('id', `guide-${blocks.length}`)
    const words = (token.children ?? []).map((part) => (part.type === 'softbreak' ? ' ' : part.content))
    blocks.push(words.join(''))
    const children = token.children ?? []
    children.forEach((part, nth) => {
      if (part.type !== 'link_open') return
      const to = address(String(part.attrGet('href')), kind)
      if (to) return part.attrSet('href', to)
      // A file of the repository: its name stays, without a link that leads nowhere.
      part.tag = 'span'
      part.attrs = []
      const close = children.slice(nth).find((later) => later.type === 'link_close')
      if (close) close.tag = 'span'
    })
  })
  const html = markdown.renderer.render(tokens, markdown.options, {})
  return { key: keyOf(kind, nameOf(path)), title, kind, html, blocks }
}

const ORDER = Object.keys(text.guide.pages)
const made = (kind: GuidePage['kind'], files: Record<string, string>) =>
  Object.entries(files).map(([path, source]) => page(kind, path, source))

export const guidePages: GuidePage[] = [...made('guide', guides), ...made('methods', methods)].sort(
  (a, b) => ORDER.indexOf(a.key) - ORDER.indexOf(b.key),
)

export interface Found {
  page: GuidePage
  block: number
  /** The words around the first one found. */
  excerpt: string
}

/** Paragraphs that hold every word that was typed, guides before methods, at most `most`. */
export function search(typed: string, most = 30): Found[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean)
  if (!words.length) return []
  const found = guidePages.flatMap((page) =>
    page.blocks.flatMap((block, nth) => {
      const low = block.toLowerCase()
      if (!words.every((word) => low.includes(word))) return []
      const at = Math.max(0, low.indexOf(words[0]!) - 60)
      const cut = block.slice(at, at + 180)
      return [{ page, block: nth, excerpt: `${at ? '… ' : ''}${cut}${at + 180 < block.length ? ' …' : ''}` }]
    }),
  )
  return found.slice(0, most)
}
