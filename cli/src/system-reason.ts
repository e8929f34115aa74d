const REASONS: Readonly<Record<string, string>> = {
  ENOENT: 'no such file',
  EISDIR: 'is a folder',
  ENOTDIR: 'a part of its path is a file, not a folder',
  EEXIST: 'a part of its path is a file, not a folder',
  ENAMETOOLONG: 'its name is too long',
  ELOOP: 'is a link that leads back to itself',
  ENOSPC: 'there is no space left on the disk',
  EDQUOT: 'there is no space left on the disk',
  EFBIG: 'would be larger than this disk allows',
  EACCES: 'access is denied',
  EPERM: 'access is denied',
  EROFS: 'the disk is read-only',
  EIO: 'the disk reports an error',
  EMFILE: 'too many files are open',
  ENFILE: 'too many files are open',
  EBUSY: 'is in use',
  ETXTBSY: 'is in use',
}

/** What a system error means, without its code and path. */
export function reasonOf(error: unknown): string {
  const { code } = error as NodeJS.ErrnoException
  return (code !== undefined && REASONS[code]) || 'the system refuses it'
}
