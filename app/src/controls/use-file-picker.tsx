import { type ReactNode, useRef } from 'react'

/** A field for a file that is opened from elsewhere: what opens it, and the field itself, which is not seen. */
export function useFilePicker(
  accept: string,
  testId: string,
  onFile: (file: File) => void,
): readonly [open: () => void, field: ReactNode] {
  const input = useRef<HTMLInputElement>(null)
  const field = (
    <input
      ref={input}
      type="file"
      accept={accept}
      hidden
      data-testid={testId}
      onChange={({ target }) => {
        const file = target.files?.[0]
        if (file) onFile(file)
        // The same file may be chosen again.
        target.value = ''
      }}
    />
  )
  return [() => input.current?.click(), field]
}
