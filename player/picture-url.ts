import type { InjectionKey } from 'vue'

/** Where the picture of a text is, by the hash of its file; empty while it is not known. */
export const pictureUrlKey: InjectionKey<(file: string) => string> = Symbol('picture URL')
