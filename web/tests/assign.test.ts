import { describe, expect, it } from "vitest";
import { howMany, NOBODY, naming, turned } from "../src/assign/chosen";
import { columnsNamed, SHOWN_FIRST, withColumn } from "../src/assign/columns";
import { operationOf } from "../src/assign/Give";
import { coversWords } from "../src/assign/GivenList";
import { nested } from "../src/assign/GroupsPlace";
import { noteWords } from "../src/assign/notes";
import { asLocal } from "../src/assign/When";
import { headed, matches } from "../src/shared/Picker";
import { givenWords, type ScopeNames, scopeWords, withValue } from "../src/shared/scope/scope";

const NAMES: ScopeNames = {
  sites: (key) => key.toUpperCase(),
  branches: (key) => `<${key}>`,
  types: (key) => `${key}s`,
  topics: (key) => key,
};

describe("who is chosen", () => {
  it("is told by ids, or by the filter that finds all", () => {
    const some = turned(turned(NOBODY, ["a", "b"], true), ["a"], false);
    expect(naming(some)).toEqual({ accounts: ["b"] });
    expect(howMany(some)).toBe(1);
    const filter = { search: "x", role: "", group: "", state: "" };
    const all = { ...NOBODY, all: true, matching: 1204, filter };
    expect(naming(all)).toEqual({ all_that_match: { ...filter, show: "" } });
    expect(howMany(all)).toBe(1204);
  });

  it("is some again once one of all is left out", () => {
    const all = { ...NOBODY, all: true, matching: 3 };
    expect(turned(all, ["b"], true)).toMatchObject({ all: false, ids: new Set(["b"]) });
  });
});

describe("columns", () => {
  it("are those shown first where the address names none", () => {
    expect(columnsNamed("").map(({ key }) => key)).toEqual(SHOWN_FIRST);
    expect(columnsNamed("none")).toEqual([]);
  });

  it("are named in the address only where they differ", () => {
    const more = withColumn("", "state", true);
    expect(more.split(",")).toContain("state");
    expect(withColumn(more, "state", false)).toBe("");
    expect(withColumn("roles", "roles", false)).toBe("none");
  });
});

describe("a scope", () => {
  it("leaves out a list that would be empty", () => {
    const one = withValue({}, "types", "event", true);
    expect(one).toEqual({ types: ["event"] });
    expect(withValue(one, "types", "event", false)).toEqual({});
    expect(withValue(one, "types", "event", true)).toEqual(one);
  });

  it("reads as a sentence goes on", () => {
    expect(scopeWords({}, NAMES)).toBe("everywhere");
    expect(
      scopeWords({ types: ["event"], topics: ["tides"], branches: ["p", "q"], sites: ["h"] }, NAMES),
    ).toBe("for events, about tides, on <p> and <q> and what is beneath, on the site H");
    expect(scopeWords({ topics: ["tides"] }, NAMES)).toBe("for pages about tides");
  });

  it("of something given has the titles that came with it, and says what is out of sight", () => {
    const given = {
      scope: { branches: ["p"] },
      branches: [
        { id: "p", title: "Pier 3" },
        { id: null, title: "a page out of sight" },
      ],
    };
    expect(givenWords(given as never, NAMES)).toBe("on Pier 3 and a page out of sight and what is beneath");
    expect(givenWords({ scope: { branches: [] }, branches: [] } as never, NAMES)).toMatch(/nowhere/);
  });
});

describe("what is sent to give something", () => {
  const to = { kind: "group", id: "crew", name: "Crew" } as const;
  const held = { scope: {}, starts: null, ends: null };

  it("names the role or the capability, and whom", () => {
    expect(operationOf({ what: "role", to, chosen: "pilot", says: "", ...held })).toEqual({
      kind: "give-role",
      role: "pilot",
      to: { kind: "group", id: "crew" },
      ...held,
    });
    expect(operationOf({ what: "capability", to, chosen: "event.edit", says: "own", ...held })).toMatchObject(
      {
        kind: "give-capability",
        capability: "event.edit",
        says: "own",
      },
    );
  });

  it("of something given names that alone", () => {
    const given = { id: "g1" } as never;
    expect(operationOf({ what: "role", given, to, chosen: "pilot", says: "", ...held })).toEqual({
      kind: "change-role",
      assignment: "g1",
      ...held,
    });
    expect(operationOf({ what: "capability", given, to, chosen: "x", says: "own", ...held })).toEqual({
      kind: "change-capability",
      grant: "g1",
      ...held,
    });
  });
});

describe("groups", () => {
  const group = (key: string, parent: string | null, name = key) => ({ key, name, parent }) as never;
  const all = [group("c", "b"), group("a", null), group("b", "a"), group("z", null, "Zed")];

  it("come parents first", () => {
    expect(nested(all, "").map(({ id }) => id)).toEqual(["a", "b", "c", "z"]);
  });

  it("are found with what is above them", () => {
    expect(nested(all, "C").map(({ id }) => id)).toEqual(["a", "b", "c"]);
    expect(nested(all, "zed").map(({ id }) => id)).toEqual(["z"]);
    expect(nested(all, "none")).toEqual([]);
  });
});

describe("small words", () => {
  it("tell what is odd about an account", () => {
    const long = new Date(Date.now() - 210 * 86_400_000).toISOString();
    const row = { notes: ["unseen", "ends"], last_seen: long, made_at: long } as never;
    expect(noteWords(row)).toEqual(["not seen for 7 mo", "ends soon"]);
    const new_ = {
      notes: ["invited"],
      made_at: new Date(Date.now() - 3 * 86_400_000).toISOString(),
    } as never;
    expect(noteWords(new_)).toEqual(["invited 3 days ago"]);
  });

  it("tell what is covered", () => {
    expect(coversWords({ pages: 1, media: 0 })).toBe("1 page");
    expect(coversWords({ pages: 6, media: 41 })).toBe("6 pages, 41 of media");
    expect(coversWords({ pages: 0, media: 0 })).toBe("nothing today");
  });

  it("show a moment as local fields want it, back and forth", () => {
    const iso = new Date(2027, 8, 30, 18, 5).toISOString();
    expect(asLocal(iso)).toBe("2027-09-30T18:05");
    expect(new Date(asLocal(iso)).toISOString()).toBe(iso);
    const typing = new Date(2027, 0, 2, 9);
    typing.setFullYear(2);
    expect(asLocal(typing.toISOString())).toBe("0002-01-02T09:00");
  });
});

describe("the picker", () => {
  it("finds by every word, in name, note and head", () => {
    const choice = { key: "x", name: "Tenant editor", note: "berths", head: "Roles" };
    expect(matches(choice, "ten BERTH")).toBe(true);
    expect(matches(choice, "ten pilots")).toBe(false);
    expect(matches(choice, "")).toBe(true);
  });

  it("keeps heads in the order in which they come first", () => {
    const choices = [
      { key: "1", name: "a", head: "B" },
      { key: "2", name: "b", head: "A" },
      { key: "3", name: "c", head: "B" },
    ];
    expect(headed(choices).map(([head, group]) => [head, group.length])).toEqual([
      ["B", 2],
      ["A", 1],
    ]);
  });
});
