import { tmpdir } from 'node:os';

/** What the system calls a disk, a quota or a limit for files that takes no more. */
const FULL = ['ENOSPC', 'EDQUOT', 'EFBIG'];

export const isDiskFull = (error: unknown): boolean => FULL.includes((error as { code?: string }).code ?? '');

/** A disk that takes no more, said so that it can be mended. */
export const DISK_FULL = {
  get what() {
    return `The disk of the machine that reads has no room left in ${tmpdir()}.`;
  },
  mend: 'Make room there, or start what reads with another TMPDIR, and scan again.',
};
