import { build, demo, install, run } from './steps.mjs'

install()
build()
demo()
run(process.execPath, ['--import', 'tsx', 'server/src/main.ts'])
