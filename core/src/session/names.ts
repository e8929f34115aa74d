/** Kinds of source a track can carry. */
export const ROLES = [
  'voice',
  'speech',
  'keys',
  'strings',
  'winds',
  'guitar',
  'bass',
  'drums',
  'ambience',
  'other',
] as const
export type Role = (typeof ROLES)[number]

/** Whether a role is that of a voice, spoken or sung. */
export const isVoice = (role: Role): boolean => role === 'voice' || role === 'speech'

/** Version of the session document written by this code. */
export const SESSION_VERSION = 11

/** How much a session holds at most. */
export const MOST = {
  tracks: 200,
  groups: 50,
  references: 50,
  passages: 20,
  leads: 20,
  treatments: 64,
  dismissed: 2000,
  variations: 9,
  blindTests: 200,
  blindTrials: 100,
  /** Two days: a day's time stamps, and a recording of a day behind the last. */
  hours: 48,
} as const

/** What a session can be listened to with. */
export const LISTENING = ['speakers', 'headphones'] as const

/** Whether what was put aside is a finding: looks that were left, and doubts that are kept, are called by their kind. */
export function isFindingKey(key: string): boolean {
  return !/^(look|doubt) /.test(key)
}
