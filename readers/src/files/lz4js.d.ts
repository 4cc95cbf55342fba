declare module 'lz4js' {
  /** The bytes of an LZ4 frame. */
  export function decompress(bytes: Uint8Array): Uint8Array;
  /** How many bytes they are at most. */
  export function decompressBound(bytes: Uint8Array): number;
}
