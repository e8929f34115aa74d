// What a component shows a moment later is waited for as long as a busy machine takes.
if (typeof document !== 'undefined') {
  const { configure } = await import('@testing-library/react')
  configure({ asyncUtilTimeout: 10_000 })
}

export {}
