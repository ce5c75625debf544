/** The way to the server: typed by its own description, with refusals as one kind of error. */
import createClient from 'openapi-fetch'
import type { paths } from './schema'
import type { Problem } from './types'

const NEVER_DRAWN_MS = 50 // a hidden page isn't drawn

// The browser's cache sends the ETag along, so that an unchanged design costs no body.
export const api = createClient<paths>({ baseUrl: '/', fetch: send })

/** Send a request. What is only read waits until the page is drawn: what follows from an edit shows before it is asked for. */
async function send(request: Request): Promise<Response> {
  if (request.method === 'GET') await drawn()
  return globalThis.fetch(request)
}

function drawn(): Promise<void> {
  return new Promise((resolve) => {
    const never = setTimeout(resolve, NEVER_DRAWN_MS)
    requestAnimationFrame(() => {
      clearTimeout(never)
      setTimeout(resolve)
    })
  })
}

/** The server refused a request, and says why. */
export class Refusal extends Error {
  readonly problem: Problem

  constructor(problem: Problem) {
    super(problem.detail)
    this.problem = problem
  }
}

const UNREACHABLE: Problem = {
  type: 'about:blank',
  title: 'The server does not answer',
  status: 0,
  detail: 'What you typed is still here; try again when the server runs.',
  errors: [],
  meanwhile: [],
  meanwhile_count: 0,
}

/** Return a problem that says more than it did. */
export function withDetail(problem: Problem, said: string): Problem {
  return { ...problem, detail: `${said} ${problem.detail}` }
}

/** Return the body of an answer; throw a Refusal when there is none. */
export async function bodyOf<T>(answer: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  let settled: { data?: T; error?: unknown }
  try {
    settled = await answer
  } catch {
    throw new Refusal(UNREACHABLE)
  }
  if (settled.data !== undefined) return settled.data
  throw new Refusal(isProblem(settled.error) ? settled.error : UNREACHABLE)
}

/** Wait for an answer without a body; throw a Refusal when it was refused. */
export async function doneBy(answer: Promise<{ error?: unknown; response: Response }>): Promise<true> {
  let settled: { error?: unknown; response: Response }
  try {
    settled = await answer
  } catch {
    throw new Refusal(UNREACHABLE)
  }
  if (settled.response.ok) return true
  throw new Refusal(isProblem(settled.error) ? settled.error : UNREACHABLE)
}

function isProblem(value: unknown): value is Problem {
  return typeof value === 'object' && value !== null && 'detail' in value && 'errors' in value
}
