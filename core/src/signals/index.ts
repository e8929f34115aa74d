export {
  type TestSignal,
  type TestSignalKind,
  type TestSignalSettings,
  testSignal,
} from './test-signal'
