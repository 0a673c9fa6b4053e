import type { ChildProcess } from 'node:child_process'

export const startProgram: (
  file: string,
  env: Record<string, string>,
  options?: { quiet?: boolean },
) => Promise<{ child: ChildProcess; line: string }>
export const stopProgram: (child: ChildProcess) => Promise<void>
