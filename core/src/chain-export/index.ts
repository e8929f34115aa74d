export { type ChainText, type CommandTool, chainCommand, sectionsInLine } from './commands'
export { type ChainImpulse, chainImpulse } from './impulse'
export { chainCsv, chainList } from './response'
