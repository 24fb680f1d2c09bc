/** Every runtime has it, but the core is compiled without what only some have. */
declare const TextEncoder: new () => { encode(text: string): Uint8Array<ArrayBuffer> }

export const utf8 = (text: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(text)
