// The server as the screens see it, and a screen in front of it.
import { QueryClientProvider } from "@tanstack/react-query";
import { cleanup, configure, render } from "@testing-library/react";
import { type ReactNode, StrictMode } from "react";
import { createMemoryRouter, RouterProvider } from "react-router";
import { afterEach, vi } from "vitest";

// A busy machine is no failure.
configure({ asyncUtilTimeout: 10_000 });
vi.setConfig({ testTimeout: 30_000 });

type Answer = { status?: number; body?: unknown; tag?: string };
type Routes = Record<string, unknown | ((sent: unknown, request: Request) => Answer | Promise<Answer>)>;
export type Sent = { method: string; path: string; headers: Headers; body: unknown };

let routes: Routes = {};
const sent: Sent[] = [];

vi.stubGlobal("fetch", async (request: Request) => {
  const { pathname } = new URL(request.url);
  const body = request.method === "GET" ? undefined : await request.json().catch(() => undefined);
  sent.push({ method: request.method, path: pathname, headers: request.headers, body });
  const route = routes[`${request.method} ${pathname}`];
  if (route === undefined) return new Response(JSON.stringify({ reason: "not-served" }), { status: 404 });
  const answer: Answer = typeof route === "function" ? await route(body, request) : { body: route };
  return new Response(answer.body === undefined ? null : JSON.stringify(answer.body), {
    status: answer.status ?? 200,
    headers: { "Content-Type": "application/json", ...(answer.tag ? { ETag: answer.tag } : {}) },
  });
});
// jsdom gives relative addresses no origin.
const RealRequest = globalThis.Request;
vi.stubGlobal(
  "Request",
  class extends RealRequest {
    constructor(input: RequestInfo | URL, init?: RequestInit) {
      super(typeof input === "string" ? new URL(input, "http://localhost") : input, init);
    }
  },
);

/** What is answered from now on, by method and path; anything else is not there. */
export function serve(more: Routes) {
  routes = { ...routes, ...more };
}

/** What was sent so far, of one method and path. */
export function sentTo(method: string, path: string): Sent[] {
  return sent.filter((one) => one.method === method && one.path === path);
}

/** Show something as the application does, at an address. */
export async function show(element: ReactNode, path = "/") {
  const { queryClient } = await import("../src/shared/query");
  const router = createMemoryRouter([{ path: "*", element }], { initialEntries: [path] });
  return {
    router,
    queryClient,
    ...render(
      <StrictMode>
        <QueryClientProvider client={queryClient}>
          <RouterProvider router={router} />
        </QueryClientProvider>
      </StrictMode>,
    ),
  };
}

afterEach(async () => {
  cleanup();
  const { queryClient } = await import("../src/shared/query");
  queryClient.clear();
  routes = {};
  sent.length = 0;
});

export const session = (said: Record<string, unknown> = {}) => ({
  actor: { id: "odile", name: "Odile Varga", email: "o@skerrow.example", keyholder: false, roles: [] },
  subject: { id: "odile", name: "Odile Varga", email: "o@skerrow.example", keyholder: false, roles: [] },
  standing_in: null,
  places: ["define", "desk"],
  duties: [],
  ...said,
});

/** What a catalogue answers, with one kind and one component. */
export const CATALOGUE = {
  types: [{ key: "berth", name: "Berth page", plural: "berth pages", tree: "content", fields: [] }],
  components: [
    {
      key: "heading",
      name: "Heading",
      facets: ["wording"],
      properties: [{ key: "text", name: "Text", facet: "wording", kind: "text", choices: [] }],
      drawn: [
        { shape: "heading", filled: { text: "text" }, main: "text", label: "", heads: [], numbered: false },
      ],
    },
  ],
  verbs: [],
  duties: [],
  actions: [],
  reasons: {},
  sentences: {},
  new: [],
};

/** A part of a page. */
export const heading = (id: string, more = {}) => ({
  id,
  kind: "heading",
  props: { text: id },
  facets: { wording: true },
  hidden: [],
  off: false,
  locked: false,
  may_arrange: true,
  ...more,
});

/** A page as the desk is told of it: a draft that one may edit. */
export const deskPage = (more = {}) => ({
  id: "loft",
  type: "berth",
  tree: "content",
  title: "Sail loft",
  state: "draft",
  site: "harbour",
  address: "loft",
  author: null,
  note: "",
  parent: "pier",
  topics: [],
  version: 1,
  tag: "1",
  working: false,
  public_changed: false,
  beside: null,
  saved_at: "2026-11-29T00:00:00Z",
  saved_by: null,
  above: [],
  locked: false,
  locks: [],
  may: ["see", "edit"],
  fields: [],
  components: [heading("a"), heading("b")],
  insertable: [],
  markup: [],
  may_hand_on: false,
  may_edit_listing: false,
  may_edit_site_listing: false,
  ...more,
});
