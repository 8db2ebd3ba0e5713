// The API: typed by the generated schema, with problems (RFC 9457) as errors.
import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./schema";
import { fetchTogether, readsTogether } from "./together";

export type Shapes = components["schemas"];
export type Problem = Shapes["Problem"] & { theirs?: unknown; positions?: number[]; built_on?: string[] };

/** A refusal or an error as the server told it. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail || problem.title);
  }

  /** The message for one field of what was sent, or for something in it, by its JSON Pointer; for "" of all of it. */
  at(pointer: string): string | undefined {
    const errors = this.problem.errors ?? [];
    const found =
      errors.find((e) => e.pointer === pointer) ??
      (pointer ? errors.find((e) => e.pointer.startsWith(`${pointer}/`)) : undefined);
    return found?.message;
  }
}

const WRITING = ["POST", "PATCH", "PUT", "DELETE"];

/** Asks whoever is there to show once more that it is them; tells whether they did. */
let askAgain: () => Promise<boolean> = async () => false;

export function onProveAgain(ask: () => Promise<boolean>) {
  askAgain = ask;
}

/** For whose eyes the screen is drawn, and what is done once it turns out that somebody else is there. */
let eyes = "";
let lookAgain: () => void = () => {};

export function drawnFor(whose: string) {
  eyes = whose;
}

export function onOtherEyes(look: () => void) {
  lookAgain = look;
}

/** What is done whenever something was done, or refused, in a rehearsal. */
let rehearsed: () => void = () => {};

export function onRehearsed(look: () => void) {
  rehearsed = look;
}

/** Writing requests as they were sent, in case they have to be sent once more. */
const sent = new WeakMap<Request, Request>();

const manners: Middleware = {
  onRequest({ request }) {
    if (WRITING.includes(request.method)) {
      for (const [name, value] of Object.entries(asScreen())) request.headers.set(name, value);
      sent.set(request, request.clone());
    }
    return request;
  },
  async onResponse({ request, response }) {
    if (readsTogether() && WRITING.includes(request.method)) rehearsed();
    if (response.status !== 403 && response.status !== 409) return undefined;
    const problem = await response
      .clone()
      .json()
      .catch(() => null);
    if (problem?.reason === "drawn-for-another" || problem?.reason === "stand-in-over") lookAgain();
    const again = sent.get(request);
    if (problem?.reason !== "prove-again" || !again || !(await askAgain())) return undefined;
    return fetch(again);
  },
  onError() {
    return new ProblemError(NO_CONNECTION);
  },
};

export const NO_CONNECTION: Problem = {
  status: 0,
  reason: "no-connection",
  title: "No connection",
  detail: "The server cannot be reached. What you did is still here; try again in a moment.",
};

export const api = createClient<paths>({
  baseUrl: "/",
  fetch: (request) => fetchTogether(request, asScreen()),
});
api.use(manners);

/** What a screen sends with all that is no plain reading. */
export function asScreen(): Record<string, string> {
  return { "X-CSRFToken": cookie("csrftoken"), ...(eyes ? { "Drawn-For": eyes } : {}) };
}

function cookie(name: string): string {
  const found = document.cookie.split("; ").find((pair) => pair.startsWith(`${name}=`));
  return found ? found.slice(name.length + 1) : "";
}

/** The data of an answer. Throws ProblemError when it is a problem. */
export async function answer<T>(
  asked: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await asked;
  if (error !== undefined || !response.ok) {
    throw new ProblemError(asProblem(error, response.status));
  }
  return data as T;
}

/** The same, with the tag to send as If-Match when it is changed. */
export async function answerWithTag<T>(
  asked: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<{ data: T; tag: string }> {
  const data = await answer(asked);
  return { data, tag: (await asked).response.headers.get("ETag") ?? "" };
}

/** Every page of a list, one after the other, as far as `Total-Count` says there is more. */
export async function everyPage<T>(
  ask: (offset: number) => Promise<{ data?: T[]; error?: unknown; response: Response }>,
): Promise<T[]> {
  const all: T[] = [];
  for (;;) {
    const asked = await ask(all.length);
    const page = await answer(Promise.resolve(asked));
    all.push(...page);
    const total = Number(asked.response.headers.get("Total-Count") ?? all.length);
    if (page.length === 0 || all.length >= total) return all;
  }
}

/** A problem as it was told, or in its place that something went wrong. */
export function asProblem(told: unknown, status: number): Problem {
  if (told && typeof told === "object" && "reason" in told) {
    return told as Problem;
  }
  return {
    status,
    reason: "server",
    title: "Something went wrong",
    detail: "The server could not answer. Nothing was changed.",
  };
}
