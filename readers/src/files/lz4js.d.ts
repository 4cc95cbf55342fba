declare module 'lz4js' {
  /** The bytes of an LZ4 frame, at most so many. */
  export function decompress(bytes: Uint8Array, most?: number): Uint8Array;
}
