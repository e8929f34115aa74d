/** Reading and packing of sessions: loaded when it is asked for, so that the list of sessions is there sooner. */
export {
  bundleFiles,
  loadSession,
  openDemo,
  openSessionFile,
  packSession,
} from '@sober-prism/engine'
