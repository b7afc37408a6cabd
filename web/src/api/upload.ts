import { asProblem, Problem, UNREACHABLE } from '@/api/client'

/** Send files and fields as a form; the answer, or a Problem with the server's own sentence. */
export async function upload<T>(
  path: string,
  fields: Record<string, string | File | File[] | null>,
): Promise<T> {
  const body = new FormData()
  for (const [name, value] of Object.entries(fields)) {
    for (const part of Array.isArray(value) ? value : [value])
      if (part !== null) body.append(name, part)
  }
  let answer: Response
  try {
    answer = await fetch(path, { method: 'POST', body })
  } catch {
    throw new Problem(0, UNREACHABLE)
  }
  const given: unknown = await answer.json().catch(() => null)
  if (!answer.ok) throw asProblem(answer.status, given)
  return given as T
}
