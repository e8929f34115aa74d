export { type Look, type LookInput, type LookKind, secondLook } from './second-look'
