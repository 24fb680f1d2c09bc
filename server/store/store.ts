/**
 * What the server keeps, in three plain kinds: documents that are replaced whole, journals that are added to,
 * and parts of media. `files.ts` keeps them as files on one machine. The interface asks no more than a database and an
 * object store can give: a document is a row, an entry of a journal a row with a unique id, a turn an advisory lock, a
 * part an object.
 */
import type { Static, TSchema } from '@sinclair/typebox'

/** Documents of one kind, by id. A write is there whole, or not at all, when its promise resolves. */
export interface Documents<T> {
  /** Null when there is none; one that cannot be read is set aside and counts as none. */
  read(id: string): Promise<T | null>
  write(id: string, value: T): Promise<void>
  /** Writes it unless there is one. @returns whether it was written: of several at once, for one alone */
  create(id: string, value: T): Promise<boolean>
  /** None being there is fine. */
  remove(id: string): Promise<void>
  ids(): Promise<string[]>
}

/** An entry as it is kept. `seq` grows with every entry of the server, also over its starts, but not by one. */
export type Kept<T> = T & { seq: number }

/** Journals of one kind: one for each name within a group (a person at a place). */
export interface Journals<T> {
  /**
   * Adds what `decide` makes of what is there, in one turn: what it is given cannot change meanwhile. An entry whose id
   * is there already is passed over. @returns all entries, once the new ones are on the disk
   */
  append(group: string, name: string, decide: (held: readonly Kept<T>[]) => readonly T[]): Promise<readonly Kept<T>[]>
  read(group: string, name: string): Promise<readonly Kept<T>[]>
  /** Removes a journal, if `decide` says so of all that is there then. @returns whether it did */
  remove(group: string, name: string, decide: (held: readonly Kept<T>[]) => boolean): Promise<boolean>
  /**
   * Entries of the whole group behind `after`, by `seq`; nothing that is acknowledged later will have a smaller one.
   */
  readGroup(group: string, after: number): Promise<Kept<T>[]>
  /** The groups of which there is a journal, or was one. */
  groups(): Promise<string[]>
}

/** Parts of media, by a path of ids and names. A part is there whole, or not at all. */
export interface Parts {
  write(path: string, bytes: Uint8Array): Promise<void>
  /** Bytes `from`…`to` (inclusive), or all of it; null when it is not there. */
  read(path: string, from?: number, to?: number): Promise<Uint8Array | null>
  /** Bytes; null when it is not there. */
  size(path: string): Promise<number | null>
  remove(path: string): Promise<void>
  /** Removes everything below a path. */
  removeAll(path: string): Promise<void>
  /** The names that directly follow a path. */
  names(path: string): Promise<string[]>
}

/** Something that could not be read and stands apart now, so that the rest is served. */
export interface SetAside {
  /** File name it stands under, in the folder `set-aside`. */
  name: string
  /** A sentence for the author. */
  says: string
}

export interface Store {
  /** @param upgrade makes what an earlier version wrote into what `schema` says, and leaves anything else as it is */
  documents<S extends TSchema>(
    kind: string,
    schema: S,
    upgrade?: (data: unknown, id: string) => unknown,
  ): Documents<Static<S>>
  /** @param fold picks entries that say what all of them say; a journal that has grown may be replaced by them */
  journals<S extends TSchema>(
    kind: string,
    schema: S,
    idOf: (entry: Static<S>) => string,
    upgrade?: (data: unknown) => unknown,
    fold?: (held: readonly Kept<Static<S>>[]) => Kept<Static<S>>[],
  ): Journals<Static<S>>
  parts: Parts
  /** Runs `task` after every other one of the same name. */
  exclusive<T>(name: string, task: () => Promise<T>): Promise<T>
  setAside(): Promise<SetAside[]>
  /** Lets go of the storage, so that another process may take it. */
  close(): Promise<void>
}
