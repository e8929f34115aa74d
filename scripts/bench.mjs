import { build, chromium, demo, install, run } from './steps.mjs'

install()
chromium()
build(true)
demo()
run(process.execPath, ['--import', 'tsx', 'bench/src/main.ts', ...process.argv.slice(2)])
