import RemoveIcon from '@mui/icons-material/Close'
import Button from '@mui/material/Button'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { mergeProfiles, type Profile } from '@sober-prism/core/match'
import { fileName } from '@sober-prism/core/mix'
import { DocumentError, parseProfile, writeProfile } from '@sober-prism/core/session'
import {
  deleteProfile,
  errorSentence,
  isCancel,
  type KeptProfile,
  keepProfile,
  profileFile,
} from '@sober-prism/engine'
import { useRef, useState } from 'react'
import { IconAction } from '../controls/icon-action'
import { PlainList, Row } from '../controls/layout'
import { Running } from '../controls/running'
import { TickBox } from '../controls/tick-box'
import { download } from '../jobs/download'
import { useDesk } from '../shell/desk-context'
import { useWork, type WorkOptions } from '../shell/use-asked'
import { interfaceActions } from '../store/interface-slice'
import { nodeName, useSession } from '../store/selectors'
import { useAppDispatch } from '../store/store'
import { AboutProfile } from './about-profile'
import { ListenLive } from './listen-live'
import { Section } from './section'

interface LibraryProps {
  readonly node: string
  readonly profiles: readonly KeptProfile[]
  readonly onChange: () => void
}

/** Profiles that are kept across sessions: made of what is open, merged, renamed, and as files. */
export function Library({ node, profiles, onChange }: LibraryProps) {
  const session = useSession()
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const file = useRef<HTMLInputElement>(null)
  const [search, setSearch] = useState('')
  const [about, setAbout] = useState<string | null>(null)
  const [ticked, setTicked] = useState<readonly string[]>([])
  const { busy: share, run, stop } = useWork()
  const busy = share !== null
  const [reading, setReading] = useState<{ name: string; share: number } | null>(null)
  const tell = (text: string, kind: 'info' | 'warning' = 'info') =>
    void dispatch(interfaceActions.noticeShown(text, kind))
  const attempt = (work: (options: WorkOptions) => Promise<string | null>) =>
    run(async (options) => {
      try {
        const done = await work(options)
        if (done) tell(done)
        onChange()
      } catch (error) {
        const text = error instanceof DocumentError ? error.message : errorSentence(error)
        if (!isCancel(error)) tell(text, 'warning')
      }
    })
  const keep = (of: { node: string } | { reference: string }, name: string) =>
    attempt(async (options) => {
      const track = 'node' in of && session.tracks.find((t) => t.id === of.node)
      const title = { name, subject: track ? track.role : ('mix' as const) }
      const profile = await desk.ask.profile({ of, title }, options)
      if (!profile) return 'Its audio is missing. Nothing was saved.'
      await keepProfile(profile)
      return `Profile of ${name} saved.`
    })
  const merge = () =>
    attempt(async () => {
      const chosen = profiles.filter((p) => ticked.includes(p.id)).map((p) => p.profile)
      const name = chosen.map((p) => p.name).join(' and ')
      await keepProfile(mergeProfiles(chosen, { name: name.slice(0, 200) }))
      setTicked([])
      return null
    })
  /** One file that cannot be read never stops the others. */
  const read = (files: readonly File[]) =>
    attempt(async ({ signal }) => {
      const refused: string[] = []
      for (const [i, f] of files.entries()) {
        if (signal.aborted) break
        setReading({ name: f.name, share: i / files.length })
        try {
          const isProfile = /\.json$/i.test(f.name)
          await keepProfile(
            isProfile ? parseProfile(await f.text()) : await profileFile(f, { signal }),
          )
          onChange()
        } catch (error) {
          if (signal.aborted || isCancel(error)) break
          const sentence = error instanceof DocumentError ? error.message : errorSentence(error)
          refused.push(`${f.name}: ${sentence}`)
        }
      }
      setReading(null)
      if (refused.length > 0) {
        const more = refused.length > 1 ? ` And ${refused.length - 1} more.` : ''
        tell(`${refused[0]}${more}`, 'warning')
        return null
      }
      return files.length === 1 ? 'Profile saved.' : `${files.length} profiles saved.`
    })
  const change = (id: string, profile: Profile) =>
    attempt(async () => {
      await keepProfile(profile, id)
      return null
    })
  const remove = (id: string, { name }: Profile) =>
    attempt(async () => {
      await deleteProfile(id)
      return `${name} removed.`
    })
  const shown = profiles.filter(({ profile: { name, words, subject, tags } }) =>
    [name, words, subject, ...tags].join(' ').toLowerCase().includes(search.trim().toLowerCase()),
  )
  const name = nodeName(session, node)
  return (
    <Section of="library" title="Profiles" word="profile" says={saysOf(profiles.length)}>
      <Typography variant="body2" color="textSecondary">
        Long-term measurements without audio, saved in this browser.
      </Typography>
      <Row>
        <Button data-command="profile" disabled={busy} onClick={() => void keep({ node }, name)}>
          Save profile of {name}
        </Button>
        {session.references.map((r) => (
          <Button key={r.id} disabled={busy} onClick={() => void keep({ reference: r.id }, r.name)}>
            Save profile of {r.name}
          </Button>
        ))}
        <Button variant="text" onClick={() => file.current?.click()}>
          Import files…
        </Button>
        <input
          ref={file}
          type="file"
          multiple
          hidden
          accept=".json,application/json,audio/*"
          aria-label="Profile files"
          onChange={({ target }) => {
            void read([...(target.files ?? [])])
            target.value = ''
          }}
        />
        {ticked.length > 1 && (
          <Button disabled={busy} onClick={() => void merge()}>
            Merge {ticked.length} into one target
          </Button>
        )}
      </Row>
      {reading && (
        <Running what={`Analysing ${reading.name}`} share={reading.share} onCancel={stop} />
      )}
      <ListenLive
        onKept={(kept) => {
          tell(`Profile of ${kept} saved.`)
          onChange()
        }}
      />
      {profiles.length > 3 && (
        <OutlinedInput
          placeholder="Name, word or tag"
          value={search}
          inputProps={{ 'aria-label': 'Name, word or tag' }}
          onChange={(e) => setSearch(e.target.value)}
        />
      )}
      <PlainList>
        {shown.map(({ id, profile }) => (
          <Row key={id} as="li">
            <TickBox
              label=""
              name={`Select ${profile.name}`}
              checked={ticked.includes(id)}
              onChange={(on) => setTicked(on ? [...ticked, id] : ticked.filter((t) => t !== id))}
            />
            <OutlinedInput
              key={profile.name}
              defaultValue={profile.name}
              sx={{ flex: 1, minWidth: 90 }}
              inputProps={{ 'aria-label': `Name of ${profile.name}`, maxLength: 200 }}
              onBlur={({ target }) => {
                const typed = target.value.trim()
                if (typed !== '' && typed !== profile.name)
                  void change(id, { ...profile, name: typed })
                else target.value = profile.name
              }}
            />
            <Button
              variant="text"
              aria-label={`About ${profile.name}`}
              aria-expanded={about === id}
              onClick={() => setAbout(about === id ? null : id)}
            >
              About
            </Button>
            <Button
              variant="text"
              aria-label={`Export ${profile.name}`}
              onClick={() => save(profile)}
            >
              Export
            </Button>
            <IconAction
              label={`Remove ${profile.name}`}
              icon={<RemoveIcon />}
              onClick={() => void remove(id, profile)}
            />
            {about === id && (
              <AboutProfile profile={profile} onChange={(made) => void change(id, made)} />
            )}
          </Row>
        ))}
      </PlainList>
    </Section>
  )
}

function saysOf(count: number): string {
  if (count === 0) return 'None saved yet'
  return count === 1 ? '1 saved' : `${count} saved`
}

function save(profile: Profile): void {
  const name = fileName(profile.name)
  const blob = new Blob([writeProfile(profile)], { type: 'application/json' })
  download(`${name}.profile.json`, blob)
}
