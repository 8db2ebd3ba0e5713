// The reads of a screen, sent together while one rehearses: all that was done is done again once for all of them.

/** As many as the server takes at once. */
const MOST = 40;
/** Milliseconds in which a screen asks for what it shows. */
const WAIT = 4;

/** What is about the rehearsal, or about what was proved, is asked outside of it. */
const OUTSIDE = /^\/api\/(rehearsal|walk-lists)/;

type Waiting = { path: string; settle: (response: Response) => void; fail: (error: unknown) => void };
type Read = { status: number; headers: Record<string, string>; body: string };

let together = false;
let waiting: Waiting[] = [];

export function readTogether(on: boolean) {
  together = on;
}

export function readsTogether(): boolean {
  return together;
}

/** A request, together with those that are read at the same time. `headers` go with them. */
export function fetchTogether(request: Request, headers: Record<string, string>): Promise<Response> {
  const { pathname, search } = new URL(request.url);
  if (!together || request.method !== "GET" || OUTSIDE.test(pathname)) return fetch(request);
  return new Promise((settle, fail) => {
    waiting.push({ path: pathname + search, settle, fail });
    if (waiting.length === 1) setTimeout(() => send(headers), WAIT);
  });
}

function send(headers: Record<string, string>) {
  const every = waiting;
  waiting = [];
  for (let first = 0; first < every.length; first += MOST) read(every.slice(first, first + MOST), headers);
}

/** Whether no rehearsal is under way any more: then everything is read as whoever is there now has it. */
async function isOver(response: Response): Promise<boolean> {
  const { reason } = await response.json();
  return reason === "drawn-for-another" || reason === "conflict";
}

async function read(some: Waiting[], headers: Record<string, string>) {
  try {
    const response = await fetch("/api/rehearsal/reads", {
      method: "POST",
      headers: { ...headers, "Content-Type": "application/json" },
      body: JSON.stringify({ paths: some.map(({ path }) => path) }),
    });
    if (response.status === 409 && (await isOver(response.clone()))) {
      for (const { path, settle, fail } of some) fetch(path).then(settle, fail);
      return;
    }
    if (!response.ok) {
      for (const { settle } of some) settle(response.clone());
      return;
    }
    const answers: Read[] = await response.json();
    some.forEach(({ settle }, i) => {
      const { status, headers, body } = answers[i] as Read;
      settle(new Response(status === 204 ? null : body, { status, headers }));
    });
  } catch (error) {
    for (const { fail } of some) fail(error);
  }
}
