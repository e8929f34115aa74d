import { build, chromium, demo, install, run } from './steps.mjs'

install()
chromium()
build()
demo()
run(process.execPath, ['--import', 'tsx', 'e2e/src/shots.ts', ...process.argv.slice(2)])
