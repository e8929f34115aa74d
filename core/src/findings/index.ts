export { type CoveredRegion, coveredRegions } from './covered-regions'
export {
  type HeardChange,
  type MaskingFinding,
  type MaskingProposalSettings,
  maskingFindings,
} from './masking-findings'
