/** What is used of the FLAC library. */
export interface FlacLibrary {
  isReady(): boolean
  on(event: 'ready', listener: () => void): void
  /** 0 where none could be made. */
  create_libflac_decoder(verify: boolean): number
  /** 0 where it went well. */
  init_decoder_stream(
    decoder: number,
    read: (bytes: number) => { buffer: Uint8Array; readDataLength: number; error: boolean },
    write: (
      channels: Uint8Array[],
      frame: {
        readonly sampleRate: number
        readonly bitsPerSample: number
        readonly blocksize: number
      },
    ) => void,
    error: (code: number, description: string) => void,
    metadata: (about?: { readonly sampleRate: number; readonly channels: number }) => void,
    isOgg: boolean,
  ): number
  FLAC__stream_decoder_process_until_end_of_stream(decoder: number): boolean
  FLAC__stream_decoder_finish(decoder: number): boolean
  FLAC__stream_decoder_delete(decoder: number): void
}
