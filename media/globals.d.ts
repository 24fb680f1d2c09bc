// Synchronous file access exists in dedicated workers only, so the DOM library does not declare it (File System
// Standard, §2.6).
interface FileSystemSyncAccessHandle {
  read(buffer: BufferSource, options: { at: number }): number
  getSize(): number
  write(buffer: BufferSource, options?: { at?: number }): number
  truncate(size: number): void
  flush(): void
  close(): void
}
interface FileSystemFileHandle {
  createSyncAccessHandle(): Promise<FileSystemSyncAccessHandle>
}

// A worker's own fonts (CSS Font Loading Module Level 3, §4.1).
interface Window {
  readonly fonts: FontFaceSet
}

// WebCodecs Registry, Opus (§5): not in the DOM library yet.
interface AudioEncoderConfig {
  opus?: { frameDuration?: number }
}

declare module '*?url' {
  const url: string
  export default url
}
