// What is sent of what was typed or chosen, as functions.
import { describe, expect, it, test } from "vitest";
import { beginningOf } from "../src/define/NewRole";
import { drawnKey, newIds, shifted, withCopy, withPart } from "../src/desk/components";
import { bodyOf, type PageComponent } from "../src/desk/useDesk";
import { questionOf } from "../src/shared/expectations/NewExpectation";
import { placeHere } from "../src/shared/placeHere";
import { mayHopeToStandIn } from "../src/shared/session";
import { sameCloth } from "../src/shared/useRoles";
import { role } from "./harbour";

const part = (id: string, props: object = { html: id }) =>
  ({ id, kind: "text", props }) as unknown as PageComponent;

describe("an expectation", () => {
  const said = {
    who: "visitor",
    expect: "deny",
    action: "see",
    beneath: true,
    note: "",
    group: "",
    type: undefined,
  } as const;

  it("is about a branch with everything beneath it, or about a single page", () => {
    expect(questionOf({ ...said, place: "fees" })).toMatchObject({ account: null, branch: "fees" });
    const single = questionOf({ ...said, place: "fees", beneath: false });
    expect(single).toEqual({
      account: null,
      action: "see",
      node: "fees",
      expect: "deny",
      note: "",
      group: "",
    });
  });
  it("is narrowed to a kind only where it is about a branch", () => {
    expect(questionOf({ ...said, place: "fees", type: "event" })).toMatchObject({ types: ["event"] });
    expect(questionOf({ ...said, place: "fees", type: "event", beneath: false })).not.toHaveProperty("types");
  });
  it("ranges over whom one chose", () => {
    expect(questionOf({ ...said, who: "role pilot", place: undefined })).toEqual({
      holders_of: "pilot",
      action: "see",
      expect: "deny",
      note: "",
      group: "",
    });
  });
});

describe("parts of a page", () => {
  const insertable = { kind: "text", facets: { wording: true, style: false } };

  it("never share an id, and offer the facets that are open", () => {
    let parts = [part("a"), part("b")];
    for (let i = 0; i < 3; i += 1) parts = withPart(parts, 1, insertable);
    parts = withPart(
      parts.filter((_, at) => at !== 2),
      0,
      insertable,
    );
    expect(new Set(parts.map(({ id }) => id)).size).toBe(parts.length);
    expect(parts[0]).toMatchObject({ facets: insertable.facets, may_arrange: true });
  });
  it("are drawn under the id they had first, and no later part under that", () => {
    const sent = withPart([part("a")], 1, insertable);
    newIds(sent, [part("a"), part("real")]);
    expect(drawnKey("real")).toBe(sent[1]?.id);
    const more = withPart([part("real")], 1, insertable);
    expect(new Set(more.map(({ id }) => drawnKey(id))).size).toBe(2);
  });
  it("are copied after themselves, without what is closed in a new one", () => {
    const parts = [part("a", { html: "words", width: "wide" }), part("b")];
    const facetOf = (key: string) => (key === "html" ? "wording" : "style");
    const more = withCopy(parts, 0, insertable, facetOf);
    expect(more.map(({ id }) => id)).toEqual(["a", expect.stringMatching(/^new-/), "b"]);
    expect(more[1]?.props).toEqual({ html: "words" });
  });
  it("move one place, and stay at an end", () => {
    const parts = [part("a"), part("b"), part("c")];
    const order = (list: PageComponent[]) => list.map(({ id }) => id).join("");
    expect(order(shifted(parts, 0, 1))).toBe("bac");
    expect(order(shifted(parts, 2, -1))).toBe("acb");
    expect(shifted(parts, 0, -1)).toBe(parts);
    expect(shifted(parts, 2, 1)).toBe(parts);
    expect(order(parts)).toBe("abc");
  });
  it("are sent with nothing but what one may say of them, and only where they changed", () => {
    expect(bodyOf({ components: [{ ...part("a"), locked: true, may_arrange: false }] })).toEqual({
      components: [{ id: "a", kind: "text", props: { html: "a" } }],
    });
    expect(bodyOf({ title: "T" }).components).toBeUndefined();
  });
});

test("a role begins from nothing, as a copy with or without limits, or building on another", () => {
  expect(beginningOf("A", "nothing", "pilot", true)).toEqual({ name: "A", with_limits: false });
  expect(beginningOf("A", "copy_of", "pilot", true)).toEqual({
    name: "A",
    copy_of: "pilot",
    with_limits: true,
  });
  expect(beginningOf("A", "copy_of", "pilot", false)).toMatchObject({ with_limits: false });
  expect(beginningOf("A", "builds_on", "pilot", true)).toEqual({
    name: "A",
    builds_on: "pilot",
    with_limits: false,
  });
});

test("only a place of this application is gone to after signing in", () => {
  const here = (to: string | null) => placeHere(to, "https://desk.example");
  expect(here("/define/pilot?cell=event.edit#x")).toBe("/define/pilot?cell=event.edit#x");
  for (const to of [
    null,
    "",
    "define",
    "//elsewhere.example",
    "/\\elsewhere.example",
    "/\t/elsewhere.example",
    "https://elsewhere.example",
    "javascript:alert(1)",
    "/..//elsewhere.example",
  ]) {
    expect(here(to), String(to)).toBeNull();
  }
});

test("standing in is not offered where it plainly fails", () => {
  const me = { id: "me", keyholder: false };
  const other = { id: "other", state: "active", keyholder: false };
  expect(mayHopeToStandIn(other, me)).toBe(true);
  expect(mayHopeToStandIn(other, null)).toBe(false);
  expect(mayHopeToStandIn({ ...other, id: "me" }, me)).toBe(false);
  expect(mayHopeToStandIn({ ...other, state: "invited" }, me)).toBe(false);
  expect(mayHopeToStandIn({ ...other, keyholder: true }, me)).toBe(false);
  expect(mayHopeToStandIn({ ...other, keyholder: true }, { ...me, keyholder: true })).toBe(true);
});

test("another role with the same cloth is found, and never the role itself", () => {
  const cloth = { colour: "fir", pattern: "disc" };
  const roles = [
    role({ key: "a", cloth }),
    role({ key: "b", cloth: { ...cloth, pattern: "band" } }),
    role({ key: "c", cloth }),
  ];
  expect(sameCloth({ key: "a", cloth }, roles)?.key).toBe("c");
  expect(sameCloth({ key: "b", cloth: { colour: "fir", pattern: "band" } }, roles)).toBeUndefined();
});
