// Files on their way in: a few at a time, each with what became of it.
import { afterEach, expect, it, vi } from "vitest";

vi.stubGlobal("document", { cookie: "csrftoken=t" });

type Fake = { body: FormData; headers: Record<string, string>; end: (status: number, told: unknown) => void };
let sending: Fake[] = [];

vi.stubGlobal(
  "XMLHttpRequest",
  class {
    upload: { onprogress?: (event: { loaded: number; total: number }) => void } = {};
    onload?: () => void;
    onerror?: () => void;
    status = 0;
    responseText = "";
    headers: Record<string, string> = {};
    open() {}
    setRequestHeader(name: string, value: string) {
      this.headers[name] = value;
    }
    send(body: FormData) {
      sending.push({
        body,
        headers: this.headers,
        end: (status, told) => {
          this.upload.onprogress?.({ loaded: 1, total: 2 });
          this.status = status;
          this.responseText = typeof told === "string" ? told : JSON.stringify(told);
          if (status === 0) this.onerror?.();
          else this.onload?.();
        },
      });
    }
  },
);

const incoming = await import("../src/desk/media/incoming");

const file = (name: string, size = 10) => new File([new Uint8Array(size)], name);
const settled = () => new Promise((go) => setTimeout(go));
const states = () => incoming.listed().map(({ state }) => state);

afterEach(async () => {
  while (states().some((state) => state === "sending" || state === "waiting")) {
    for (const one of sending.splice(0)) one.end(201, { id: "p", title: "P", state: "draft" });
    await settled();
  }
  incoming.clear();
  sending = [];
});

it("sends three at a time, and the next once one is over", async () => {
  incoming.bringIn(
    "piers",
    ["a", "b", "c", "d"].map((name) => file(name)),
  );
  expect(states()).toEqual(["sending", "sending", "sending", "waiting"]);
  expect(sending[0]?.body.get("folder")).toBe("piers");
  expect(sending[0]?.headers["X-CSRFToken"]).toBe("t");
  sending[0]?.end(201, { id: "p", title: "A", state: "draft" });
  await settled();
  expect(states()).toEqual(["done", "sending", "sending", "sending"]);
  expect(incoming.listed()[0]?.page?.title).toBe("A");
});

it("says why one did not come in, and tries it again", async () => {
  incoming.bringIn("piers", [file("plan.svg")]);
  sending[0]?.end(422, {
    reason: "invalid",
    title: "No",
    detail: "Some of this",
    errors: [{ pointer: "/file", message: "Send it as PNG." }],
  });
  await settled();
  expect(incoming.listed()[0]).toMatchObject({ state: "refused", told: "Send it as PNG." });
  incoming.again(incoming.listed()[0]?.id ?? 0);
  sending[1]?.end(0, "");
  await settled();
  expect(incoming.listed()[0]?.told).toContain("cannot be reached");
  incoming.again(incoming.listed()[0]?.id ?? 0);
  sending[2]?.end(502, "<html>Bad gateway</html>");
  await settled();
  expect(incoming.listed()[0]?.told).toContain("could not answer");
});

it("sends nothing that is too large, and no more than a hundred", () => {
  const large = file("large");
  Object.defineProperty(large, "size", { value: incoming.LARGEST_FILE + 1 });
  incoming.bringIn("piers", [large]);
  expect(incoming.listed()[0]).toMatchObject({ state: "refused", told: "A file has at most 40 MB." });
  expect(sending).toHaveLength(0);
  incoming.clear();
  incoming.bringIn(
    "piers",
    Array.from({ length: incoming.MOST + 2 }, (_, n) => file(`${n}`)),
  );
  expect(states().filter((state) => state === "refused")).toHaveLength(2);
});

it("keeps what is on its way when the rest is cleared", () => {
  incoming.bringIn("piers", [file("a")]);
  incoming.clear();
  expect(states()).toEqual(["sending"]);
});
