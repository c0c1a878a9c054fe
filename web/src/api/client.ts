import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];

export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

const csrf: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
};

export const client = createClient<paths>({ baseUrl: "/" });
client.use(csrf);

/** What the server said went wrong, fit to be shown. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

/** The data of an answer, or a Refused that says what went wrong. */
export function unwrap<T>(answer: { data?: T; error?: unknown; response: Response }): T {
  if (answer.data !== undefined) return answer.data;
  const { error, response } = answer;
  const said = typeof error === "object" && error && "message" in error ? String(error.message) : "";
  throw new Refused(said || (response.ok ? "" : `The server answered with ${response.status}. Try again.`), response.status);
}
