// The one way to the server: typed by the OpenAPI document, errors as sentences.
import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']

const client = createClient<paths>({ headers: { 'x-kettle-sort': '1' } })
export const { GET, POST, PUT, PATCH, DELETE } = client

/** What the server said when it could not do something. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly details: Record<string, unknown> = {},
  ) {
    super(message)
  }
}

/** Whether a failure says that the server is not there, not that it refuses. */
export const gone = (error: unknown) => error instanceof Refusal && [0, 502, 503, 504].includes(error.status)

interface Answer<T> {
  data?: T
  error?: unknown
  response: Response
}

/** The data of an answer; throws a Refusal with the server's own sentence. */
export async function got<T>(answer: Promise<Answer<T>>): Promise<T> {
  let got: Answer<T>
  try {
    got = await answer
  } catch {
    throw new Refusal('The server cannot be reached. Nothing typed here is lost; try again in a moment.', 0)
  }
  if (!got.response.ok) throw refusal(got.error, got.response.status)
  return got.data as T
}

function refusal(error: unknown, status: number): Refusal {
  const said = error as { message?: string; details?: Record<string, unknown> } | undefined
  return new Refusal(
    said?.message ?? `The server answered with an error (${status}). Please try again.`,
    status,
    said?.details,
  )
}

/** Anything that is no JSON, such as a file or a drawing; throws a Refusal with the server's own sentence. */
export async function file(address: string, how: { method?: string; body?: BodyInit } = {}): Promise<Response> {
  const headers: Record<string, string> = { 'x-kettle-sort': '1' }
  if (typeof how.body === 'string') headers['content-type'] = 'application/json'
  const { response } = await got(
    fetch(address, { ...how, headers }).then(async (response) => ({
      response,
      data: { response },
      error: response.ok ? undefined : await response.json().catch(() => undefined),
    })),
  )
  return response
}

/** Upload a file, telling how far it is. */
export function upload(
  url: string,
  file: File,
  progress: (share: number) => void,
): Promise<{ id: number } | undefined> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('POST', url)
    request.setRequestHeader('x-kettle-sort', '1')
    request.responseType = 'json'
    request.upload.onprogress = (event) => progress(event.loaded / event.total)
    request.onload = () =>
      request.status < 300 ? resolve(request.response ?? undefined) : reject(refusal(request.response, request.status))
    request.onerror = () => reject(new Refusal(`${file.name}: the connection broke off. Please upload it again.`, 0))
    const form = new FormData()
    form.append('file', file)
    request.send(form)
  })
}
