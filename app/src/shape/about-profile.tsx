import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { PROFILE_SUBJECTS, type Profile, type ProfileSubject } from '@sober-prism/core/match'
import { Choice } from '../controls/choice'
import { Column, Row } from '../controls/layout'
import { formatTime, signed } from '../format'

const SUBJECTS = PROFILE_SUBJECTS.map((subject): readonly [ProfileSubject, string] =>
  subject === 'mix' ? [subject, 'A whole mix'] : [subject, subject],
)
const MOST_TAGS = 20
const MOST_LETTERS = 40

interface AboutProfileProps {
  readonly profile: Profile
  readonly onChange: (profile: Profile) => void
}

/** What a profile is of, in words and figures: the words can be changed, the figures were measured. */
export function AboutProfile({ profile, onChange }: AboutProfileProps) {
  const { name, subject, words, tags } = profile
  return (
    <Column sx={{ flexBasis: '100%' }}>
      <Row>
        <Choice
          label={`What ${name} is of`}
          value={subject}
          options={SUBJECTS}
          onChange={(chosen) => onChange({ ...profile, subject: chosen })}
        />
        <OutlinedInput
          key={tags.join()}
          defaultValue={tags.join(', ')}
          placeholder="Tags, with commas between"
          sx={{ flex: 1, minWidth: 120 }}
          inputProps={{ 'aria-label': `Tags of ${name}`, maxLength: MOST_TAGS * MOST_LETTERS }}
          onBlur={({ target }) => {
            const typed = readTags(target.value)
            target.value = typed.join(', ')
            if (typed.join() !== tags.join()) onChange({ ...profile, tags: typed })
          }}
        />
      </Row>
      <OutlinedInput
        key={words}
        defaultValue={words}
        multiline
        maxRows={4}
        placeholder="What it is good for, in your words"
        inputProps={{ 'aria-label': `Words on ${name}`, maxLength: 1000 }}
        onBlur={({ target }) => {
          const typed = target.value.trim()
          if (typed !== words) onChange({ ...profile, words: typed })
        }}
      />
      <Typography variant="body2" color="textSecondary">
        {figuresOf(profile)}
      </Typography>
    </Column>
  )
}

/** Tags between commas: each once, none too long, no more than a profile holds. */
function readTags(text: string): string[] {
  const tags = text.split(',').map((tag) => tag.trim().slice(0, MOST_LETTERS).trim())
  return [...new Set(tags.filter((tag) => tag !== ''))].slice(0, MOST_TAGS)
}

function figuresOf({ seconds, loudness, recordings, decaySeconds, topHz }: Profile): string {
  const { integratedLufs, rangeLu, crestDb } = loudness
  const figures = [`${formatTime(seconds)} long`, `${signed(integratedLufs)} LUFS`]
  if (rangeLu !== null) figures.push(`range ${rangeLu.toFixed(1)} LU`)
  figures.push(`crest ${crestDb.toFixed(1)} dB`)
  if (decaySeconds !== null) figures.push(`decay ${decaySeconds.toFixed(1)} s`)
  figures.push(`up to ${(topHz / 1000).toFixed(1)} kHz`)
  if (recordings > 1) figures.push(`of ${recordings} recordings`)
  return figures.join(', ')
}
