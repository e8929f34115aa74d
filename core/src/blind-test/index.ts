export {
  type BlindAnswer,
  type BlindKind,
  blindOrder,
  chanceOfGuessing,
  chanceOfNoPreference,
  foundOut,
  rightAnswers,
} from './blind-test'
