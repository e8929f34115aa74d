export { leb, OP, signedLeb, type WasmFunction, writeModule } from './wasm-writer'
