/** The pages of a PDF file as pictures, to be put in or laid over. What reads them is fetched when the first is opened. */
import type { PDFDocumentProxy } from 'pdfjs-dist'
import workerUrl from 'pdfjs-dist/build/pdf.worker.min.mjs?url'

/** Longer side of a page that is put in, px, and of one in the list. */
const SIZE = { picture: 1920, small: 240 }
/** Pages that are read of one file at most. */
export const MOST_PAGES = 500

export interface SlideFile {
  name: string
  /** How many there are. */
  pages: number
  /** A small picture of a page, from 1. */
  small(page: number): Promise<Blob>
  /** A page as a file of its own. */
  picture(page: number): Promise<File>
  close(): Promise<void>
}

async function draw(pdf: PDFDocumentProxy, number: number, size: number): Promise<Blob> {
  const page = await pdf.getPage(number)
  const plain = page.getViewport({ scale: 1 })
  const viewport = page.getViewport({ scale: size / Math.max(plain.width, plain.height) })
  const canvas = document.createElement('canvas')
  canvas.width = Math.max(1, Math.round(viewport.width))
  canvas.height = Math.max(1, Math.round(viewport.height))
  await page.render({ canvas, viewport, background: '#ffffff' }).promise
  page.cleanup()
  const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'))
  if (!blob) throw new Error(`Page ${number} could not be drawn; it may be too large.`)
  return blob
}

/** @throws {Error} with a sentence when it is no PDF file, or one that needs a password */
export async function openSlides(file: File): Promise<SlideFile> {
  const { getDocument, GlobalWorkerOptions } = await import('pdfjs-dist')
  GlobalWorkerOptions.workerSrc = workerUrl
  const task = getDocument({
    data: new Uint8Array(await file.arrayBuffer()),
    standardFontDataUrl: '/pdf/standard_fonts/',
    cMapUrl: '/pdf/cmaps/',
    wasmUrl: '/pdf/wasm/',
    isEvalSupported: false,
  })
  let pdf: PDFDocumentProxy
  try {
    pdf = await task.promise
  } catch (error) {
    await task.destroy()
    if (error instanceof Error && error.name === 'PasswordException')
      throw new Error(`“${file.name}” needs a password. Save a copy without one, and choose that.`, { cause: error })
    throw new Error(`“${file.name}” cannot be read as a PDF file.`, { cause: error })
  }
  const base = file.name.replace(/\.pdf$/i, '')
  return {
    name: file.name,
    pages: Math.min(MOST_PAGES, pdf.numPages),
    small: (page) => draw(pdf, page, SIZE.small),
    picture: async (page) =>
      new File([await draw(pdf, page, SIZE.picture)], `${base}, page ${page}.png`, { type: 'image/png' }),
    close: () => task.destroy(),
  }
}
