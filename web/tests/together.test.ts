import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { fetchTogether, readTogether } from "../src/api/together";

const asked: { url: string; body: { paths: string[] } | null; headers: Record<string, string> }[] = [];
let respond: (paths: string[]) => Response;

function answers(paths: string[]): Response {
  return Response.json(
    paths.map((path) => ({
      status: path.includes("gone") ? 404 : 200,
      headers: { ETag: `"${path}"` },
      body: path,
    })),
  );
}

beforeEach(() => {
  asked.length = 0;
  respond = answers;
  vi.stubGlobal("fetch", async (request: Request | string, init?: RequestInit) => {
    const url = typeof request === "string" ? request : new URL(request.url).pathname;
    const body = init?.body ? JSON.parse(String(init.body)) : null;
    asked.push({ url, body, headers: (init?.headers ?? {}) as Record<string, string> });
    return body ? respond(body.paths) : new Response(`alone ${url}`);
  });
  readTogether(true);
});

afterEach(() => {
  readTogether(false);
  vi.unstubAllGlobals();
});

const read = (path: string, method = "GET") =>
  fetchTogether(new Request(`http://here${path}`, { method }), { "Drawn-For": "them" });

describe("reads of a screen", () => {
  it("travel together, and each gets its own answer with its status and tag", async () => {
    const [one, gone, other] = await Promise.all(
      ["/api/a?x=1", "/api/gone", "/api/b"].map((path) => read(path)),
    );
    expect(asked).toHaveLength(1);
    expect(asked[0]?.body?.paths).toEqual(["/api/a?x=1", "/api/gone", "/api/b"]);
    expect(asked[0]?.headers).toMatchObject({ "Drawn-For": "them" });
    expect(await one?.text()).toBe("/api/a?x=1");
    expect(gone?.status).toBe(404);
    expect(other?.headers.get("ETag")).toBe('"/api/b"');
  });

  it("go in pieces that the server takes", async () => {
    const many = Array.from({ length: 45 }, (_, i) => `/api/${i}`);
    const texts = await Promise.all(many.map((path) => read(path).then((response) => response.text())));
    expect(texts).toEqual(many);
    expect(asked.map(({ body }) => body?.paths.length)).toEqual([40, 5]);
  });

  it("leave alone what writes, what is about the rehearsal, and all where nobody rehearses", async () => {
    await read("/api/a", "DELETE");
    await read("/api/rehearsal");
    readTogether(false);
    await read("/api/a");
    expect(asked.map(({ body }) => body)).toEqual([null, null, null]);
  });

  it("are read alone once the rehearsal is over elsewhere", async () => {
    respond = () => Response.json({ reason: "drawn-for-another" }, { status: 409 });
    expect(await (await read("/api/a")).text()).toBe("alone /api/a");
  });

  it("all tell a refusal that is about the rehearsal", async () => {
    respond = () => Response.json({ reason: "at-work" }, { status: 409 });
    const both = await Promise.all([read("/api/a"), read("/api/b")]);
    expect(await Promise.all(both.map((response) => response.json()))).toEqual([
      { reason: "at-work" },
      { reason: "at-work" },
    ]);
  });

  it("fail together without a connection", async () => {
    respond = () => {
      throw new TypeError("no connection");
    };
    const both = await Promise.allSettled([read("/api/a"), read("/api/b")]);
    expect(both.map(({ status }) => status)).toEqual(["rejected", "rejected"]);
  });
});
