/** A file as its text. */
declare module '*.md?raw' {
  const text: string
  export default text
}
