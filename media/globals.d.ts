// Synchronous file access exists in dedicated workers only, so the DOM library does not declare it (File System Standard, §2.6).
interface FileSystemSyncAccessHandle {
  write(buffer: BufferSource, options?: { at?: number }): number
  truncate(size: number): void
  flush(): void
  close(): void
}
interface FileSystemFileHandle {
  createSyncAccessHandle(): Promise<FileSystemSyncAccessHandle>
}
