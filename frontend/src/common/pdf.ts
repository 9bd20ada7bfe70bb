// PDFs in place: pages are drawn when they come into sight, with their text above them to be marked and searched.
import workerAddress from 'pdfjs-dist/build/pdf.worker.min.mjs?url'
import type { PDFDocumentProxy, PDFPageProxy } from 'pdfjs-dist'

export interface PdfTerm {
  term: string
  supports: boolean
  own: boolean
}
export interface Drawn {
  cancel: () => void
}

/** Open a PDF. What it needs of fonts is beside our own files; it runs no script of the document. */
export async function openPdf(address: string): Promise<PDFDocumentProxy> {
  const pdfjs = await import('pdfjs-dist')
  pdfjs.GlobalWorkerOptions.workerSrc = workerAddress
  return await pdfjs.getDocument({
    url: address,
    cMapUrl: '/pdf/cmaps/',
    cMapPacked: true,
    standardFontDataUrl: '/pdf/standard_fonts/',
    useSystemFonts: false, // what stands in for Times here is not what its letters were set for
    useWasm: false,
    enableXfa: false,
  }).promise
}

/** Draw a page into an element, with its text above it. */
export async function drawPage(page: PDFPageProxy, into: HTMLElement, scale: number): Promise<Drawn> {
  const pdfjs = await import('pdfjs-dist')
  const viewport = page.getViewport({ scale })
  const sharp = Math.min(2.5, window.devicePixelRatio || 1)
  const canvas = document.createElement('canvas')
  canvas.width = Math.floor(viewport.width * sharp)
  canvas.height = Math.floor(viewport.height * sharp)
  canvas.setAttribute('aria-hidden', 'true')
  const text = document.createElement('div')
  text.className = 'pdf-text'
  text.style.setProperty('--total-scale-factor', String(scale))
  text.style.setProperty('--scale-round-x', '1px')
  text.style.setProperty('--scale-round-y', '1px')
  into.replaceChildren(canvas, text)
  const drawing = page.render({
    canvas,
    viewport,
    transform: sharp === 1 ? undefined : [sharp, 0, 0, sharp, 0, 0],
  })
  const layer = new pdfjs.TextLayer({ textContentSource: page.streamTextContent(), container: text, viewport })
  await Promise.all([drawing.promise, layer.render()])
  return {
    cancel: () => {
      drawing.cancel()
      layer.cancel()
      into.replaceChildren()
    },
  }
}

export interface Passage {
  nodes: { node: Text; begin: number; end: number }[]
}

const letters = (text: string) => text.toLowerCase().normalize('NFKD').replace(/\p{M}/gu, '')

/** The text nodes of a drawn page as one text, so that what goes over several pieces is found. */
function pieces(layer: Element): { text: string; nodes: { node: Text; begin: number }[] } {
  const walker = document.createTreeWalker(layer, NodeFilter.SHOW_TEXT)
  const nodes: { node: Text; begin: number }[] = []
  let text = ''
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    nodes.push({ node: node as Text, begin: text.length })
    text += node.textContent + (node.parentElement?.nextElementSibling?.tagName === 'BR' ? ' ' : '')
  }
  return { text, nodes }
}

/** Where words or a phrase stand on a drawn page; only whole words for terms. */
export function findOn(layer: Element, wanted: string, whole: boolean): Passage[] {
  const { text, nodes } = pieces(layer)
  const hay = text.toLowerCase()
  const open = whole && wanted.trim().endsWith('*')
  const words = wanted
    .replace(/\*+\s*$/, '')
    .trim()
    .toLowerCase()
    .split(whole ? /[\s-]+/ : /\s+/)
    .filter(Boolean)
    .map((one) => one.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'))
  if (!words.length) return []
  const edge = whole ? '(?<![\\p{L}\\p{N}])' : ''
  const end = open ? '[\\p{L}\\p{N}]*' : whole ? '(?![\\p{L}\\p{N}])' : ''
  const pattern = new RegExp(edge + words.join('[\\s\\u00ad-]+') + end, 'gu')
  return [...hay.matchAll(pattern)].map((one) => over(nodes, one.index, one.index + one[0].length))
}

/** Letters and figures only, and where each stands: so spaces, hyphens at line ends and ligatures part nothing. */
export function bare(text: string): { letters: string; at: number[] } {
  let out = ''
  const at: number[] = []
  for (let k = 0; k < text.length; k++) {
    const plain = text[k]!.normalize('NFKD')
      .toLowerCase()
      .replace(/[^\p{L}\p{N}]/gu, '')
    out += plain
    for (let n = 0; n < plain.length; n++) at.push(k)
  }
  return { letters: out, at }
}

/** The part of a text from one place to another, over the text nodes that it is made of. */
const over = (nodes: { node: Text; begin: number }[], from: number, to: number): Passage => ({
  nodes: nodes
    .map(({ node, begin }) => ({ node, begin: Math.max(0, from - begin), end: Math.min(node.length, to - begin) }))
    .filter((at) => at.begin < at.end),
})

/**
 * Where a quote stands on a drawn page, by its letters. A quote that the page holds in another order, as a table's
 * cells may be, is found in parts of at least four words.
 */
export function findQuote(layer: Element, quote: string): Passage[] {
  const { text, nodes } = pieces(layer)
  const page = bare(text)
  const where = (wanted: string): Passage | null => {
    const letters = bare(wanted).letters
    const from = letters ? page.letters.indexOf(letters) : -1
    return from < 0 ? null : over(nodes, page.at[from]!, page.at[from + letters.length - 1]! + 1)
  }
  const whole = where(quote)
  if (whole) return [whole]
  const words = quote.split(/\s+/)
  const found: Passage[] = []
  for (let begin = 0; begin < words.length;) {
    let end = words.length
    let part: Passage | null = null
    while (end - begin >= 4 && !(part = where(words.slice(begin, end).join(' ')))) end--
    if (part) found.push(part)
    begin = part ? end : begin + 1
  }
  return found
}

/** The first page, from 1, that holds a quote as a whole; 0 if none does. */
export async function pageOfQuote(document_: PDFDocumentProxy, quote: string): Promise<number> {
  const letters = bare(quote).letters
  for (let number = 1; letters && number <= document_.numPages; number++)
    if (bare(await textOf(document_, number)).letters.includes(letters)) return number
  return 0
}

async function textOf(document_: PDFDocumentProxy, number: number): Promise<string> {
  const content = await (await document_.getPage(number)).getTextContent()
  return content.items.map((item) => ('str' in item ? item.str + (item.hasEOL ? ' ' : '') : '')).join('')
}

/** What somebody marked, as one line: hyphens at line ends undone. */
export const asOneLine = (marked: string) =>
  marked
    .replace(/(\p{L})-\s*\n\s*(?=\p{Ll})/gu, '$1')
    .replace(/\s+/g, ' ')
    .trim()

/** Put marks around a passage; they can be taken away again by `unmark`. */
export function mark(passages: Passage[], name: string) {
  const cuts = passages.flatMap((passage) => passage.nodes).sort((a, b) => b.begin - a.begin)
  for (const { node, begin, end } of cuts) {
    const range = document.createRange()
    range.setStart(node, begin)
    range.setEnd(node, end)
    const made = document.createElement('mark')
    made.className = name
    range.surroundContents(made)
  }
}
export function unmark(layer: Element, name: string) {
  for (const one of layer.querySelectorAll(`mark.${name}`)) {
    const parent = one.parentNode
    one.replaceWith(...one.childNodes)
    parent?.normalize()
  }
}

/** How often a phrase stands on each page, from the text of the document itself, also of pages that are not drawn. */
export async function countIn(document_: PDFDocumentProxy, wanted: string): Promise<number[]> {
  const phrase = letters(wanted).replace(/\s+/g, ' ').trim()
  const out: number[] = []
  for (let number = 1; number <= document_.numPages; number++) {
    const text = letters(await textOf(document_, number))
    out.push(phrase ? text.replace(/\s+/g, ' ').split(phrase).length - 1 : 0)
  }
  return out
}

/** Whether the first pages hold text at all; a scan does not. */
export async function hasText(document_: PDFDocumentProxy): Promise<boolean> {
  for (let number = 1; number <= Math.min(3, document_.numPages); number++) {
    if ((await textOf(document_, number)).trim()) return true
  }
  return false
}
