/** What of a browser is needed, with how it is said where it is missing. */
const NEEDS: readonly (readonly [(host: Host) => boolean, string])[] = [
  [
    (host) => host.SharedArrayBuffer !== undefined && host.crossOriginIsolated !== false,
    'shared memory, without which nothing can be played or measured. Open the app at the address that npm start prints, or over HTTPS from a server that isolates it (headers Cross-Origin-Opener-Policy and Cross-Origin-Embedder-Policy); some browsers have it off in their settings',
  ],
  [
    (host) => host.AudioWorkletNode !== undefined,
    'audio worklets, without which nothing can be played. Open the app at a localhost or HTTPS address',
  ],
  [(host) => host.WebAssembly !== undefined, 'WebAssembly, which all computing here uses'],
  [(host) => host.indexedDB != null, 'storage for sessions. Allow this site to store data'],
]

type Host = Partial<
  Pick<
    typeof globalThis,
    'SharedArrayBuffer' | 'AudioWorkletNode' | 'WebAssembly' | 'indexedDB' | 'crossOriginIsolated'
  >
>

/**
 * What this browser lacks of what the app cannot do without, in a sentence that names what to do; null where nothing is
 * missing.
 *
 * @param host the page's globals
 */
export function lacking(host: Host): string | null {
  const missing = NEEDS.flatMap(([has, words]) => (has(host) ? [] : words))
  return missing.length === 0 ? null : `This browser lacks ${missing.join('; and ')}.`
}
