import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./generated";

export type Schemas = components["schemas"];
export type Case = Schemas["Case"];
export type Plan = Schemas["Plan"];
export type Drawing = Schemas["Drawing"];
export type Problem = Schemas["ProblemOut"];
export type Step = Schemas["Step"];
export type Figure = Schemas["Figure"];

/** What the server refused, with its stable code and the fields it is about. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly problems: Problem[] = [],
  ) {
    super(message);
  }
}

function cookie(name: string): string {
  const found = document.cookie.split("; ").find((c) => c.startsWith(`${name}=`));
  return found ? decodeURIComponent(found.slice(name.length + 1)) : "";
}

/** Returns the header by which the server knows that a change comes from its own page. */
export function ownPage(): Record<string, string> {
  return { "X-CSRFToken": cookie("csrftoken") };
}

const csrf: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET")
      for (const [name, value] of Object.entries(ownPage())) request.headers.set(name, value);
    return request;
  },
};

/** The API takes a case as it is typed, sound or not. */
export function bodyOf(data: Case) {
  return { case: data as unknown as Record<string, unknown> };
}

export const client = createClient<paths>({
  baseUrl: window.location.origin,
  fetch: (request) => globalThis.fetch(request),
});
client.use(csrf);

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** Returns the data of a call, or throws an ApiError; a server that is away has status 0. */
export async function unwrap<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new ApiError(0, "away", "The server does not answer.");
  }
  if (answer.response.ok) return answer.data as T;
  const said = (answer.error ?? {}) as Partial<Schemas["ErrorOut"]>;
  const { status } = answer.response;
  if (status >= 500) throw new ApiError(0, "away", "The server failed; try again.");
  throw new ApiError(status, said.code ?? "unknown", said.message ?? "Refused.", said.problems);
}
