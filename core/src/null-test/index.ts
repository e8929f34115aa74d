export { type NullReading, nullTest, nullVerdict } from './null-test'
