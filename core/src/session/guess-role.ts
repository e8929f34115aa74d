import { isVoice, type Role } from './names'

const ROLE_WORDS: readonly (readonly [RegExp, Role])[] = [
  [/speech|voice-?over|(?<![a-z])vo(?![a-z])|dialog|narrat|announce|host|talk/i, 'speech'],
  [/voice|voc|vox|(?<![a-z])sing|choir|lead v/i, 'voice'],
  [/piano|key|organ|synth|accordion|harmonium/i, 'keys'],
  [/bass|tuba|(?<![a-z])sub(?![a-z])/i, 'bass'],
  [
    /drum|kick|snare|hi-?hat|(?<![a-z])hats?(?![a-z])|perc|(?<![a-z])tom|cymbal|conga|bongo|tabla|djembe|cajon|woodblock|cowbell|gong|timpani|tambourine|shaker/i,
    'drums',
  ],
  [/violin|cello|viola|string|zither|harp/i, 'strings'],
  [/flute|clarinet|horn|trumpet|sax|oboe|brass/i, 'winds'],
  [/guitar|gtr/i, 'guitar'],
  [/noise|ambien|room|atmos/i, 'ambience'],
]

/** A first guess from the name; the user sets it right. */
export function guessRole(name: string): Role {
  return ROLE_WORDS.find(([words]) => words.test(name))?.[1] ?? 'other'
}

/** Voices that others lead: choirs, backing and doubled voices. */
const BACKING =
  /choir|chorus|choral|backing|background|harmon|double|dbl|second|2nd|(?<![a-z])(bv|bgv|bvox)s?(?![a-z])|ooh|aah|ad-?lib|gang|crowd/i

/** Whether a track leads until somebody says otherwise: singing and speech, unless its name says that it backs another. */
export function guessLead(name: string, role: Role): boolean {
  return isVoice(role) && !BACKING.test(name)
}
