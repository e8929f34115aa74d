import { type ChildProcess, spawn } from 'node:child_process'

export const PULSEAUDIO = '/usr/bin/pulseaudio'

/** An output that nobody hears, for programs that find it by `folder`: without one nothing plays. */
export function nullOutput(folder: string): { env: NodeJS.ProcessEnv; sound: ChildProcess } {
  const env = { ...process.env, HOME: folder, XDG_RUNTIME_DIR: folder }
  const modules = ['module-native-protocol-unix', 'module-null-sink']
  const args = ['-n', '--daemonize=no', '--exit-idle-time=-1']
  const sound = spawn(PULSEAUDIO, [...args, ...modules.map((m) => `--load=${m}`)], {
    env,
    stdio: 'ignore',
  })
  return { env, sound }
}

/** The loudness of the mix, and what is heard of each track, as they stand on a page. */
export const figures = () =>
  [...document.querySelectorAll('[class*="lufs"], .heard')].map((e) => e.textContent?.trim() ?? '')
