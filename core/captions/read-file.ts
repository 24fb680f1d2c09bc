/** A caption file of either kind, told apart by its own first line rather than by its name. */
import { readSrt } from './srt'
import { readVtt, type CaptionFile } from './vtt'

/** @throws {CaptionFileError} with the line and the reason */
export function readCaptionFile(file: string, newId: () => string): CaptionFile {
  return file.replace(/^\ufeff/, '').startsWith('WEBVTT') ? readVtt(file, newId) : readSrt(file, newId)
}
