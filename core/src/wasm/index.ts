export { leb, OP, type WasmFunction, writeModule } from './wasm-writer'
