import url from '../../node_modules/@echogarden/pffft-wasm/dist/simd/pffft.wasm?url'

let bytes: Promise<ArrayBuffer> | undefined

/** The Fourier transform module, fetched once from our own server; workers and the worklet compile it. */
export function pffftBytes(): Promise<ArrayBuffer> {
  bytes ??= fetch(url).then((response) => response.arrayBuffer())
  return bytes
}
