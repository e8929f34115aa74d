export { instantiate, type KernelRun } from './instantiate'
export {
  advance,
  get,
  lanes,
  leb,
  OP,
  set,
  untilReached,
  type WasmFunction,
  type WasmHost,
  writeModule,
} from './wasm-writer'
