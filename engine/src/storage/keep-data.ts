/** How the browser keeps the data of this site. */
export interface DataKeeping {
  /** It is removed only by hand; else also when the disk runs full. */
  readonly persistent: boolean
  readonly usedBytes: number
  readonly mostBytes: number
}

/** Asks the browser not to remove the data by itself. It may ask the user, or decide alone; true when it agrees. */
export async function askToKeepData(): Promise<boolean> {
  try {
    return (await navigator.storage?.persist?.()) ?? false
  } catch {
    return false
  }
}

/** What the browser says of the data; null where it does not say. */
export async function dataKeeping(): Promise<DataKeeping | null> {
  try {
    const { storage } = navigator
    const [persistent, { usage = 0, quota = 0 }] = await Promise.all([
      storage.persisted(),
      storage.estimate(),
    ])
    return { persistent, usedBytes: usage, mostBytes: quota }
  } catch {
    return null
  }
}
