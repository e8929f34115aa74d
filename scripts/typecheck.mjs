import { install, TYPED, typesOf } from './steps.mjs'

install()
process.exit(TYPED.filter((part) => typesOf(part) !== 0).length === 0 ? 0 : 1)
