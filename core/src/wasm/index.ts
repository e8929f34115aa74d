export { leb, OP, signedLeb, type WasmFunction, type WasmHost, writeModule } from './wasm-writer'
