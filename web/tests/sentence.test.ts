// What a cell says in words, and what counts in it.
import { describe, expect, it, test } from "vitest";
import { choices } from "../src/define/choices";
import { effective, plain, saidBy, sentence } from "../src/define/sentence";
import { headOf } from "../src/shared/capability";
import { CATALOGUE, cell, role } from "./harbour";

const says = (capability: string, said: string | null, who = role()) =>
  plain(sentence(who, cell(capability, { said }), CATALOGUE));

test.each([
  ["event.edit", "own", "Holders of Tenant editor may edit events they wrote themselves."],
  ["event.edit", "team", "Holders of Tenant editor may edit events written by anyone in their team."],
  ["event.edit", "all", "Holders of Tenant editor may edit all events."],
  ["event.create", "yes", "Holders of Tenant editor may create events."],
  ["locks.open", "yes", "Holders of Tenant editor may open locks."],
  ["event.edit", null, "Holders of Tenant editor may not edit events by this role."],
  ["locks.open", null, "Holders of Tenant editor may not open locks by this role."],
  ["event.edit", "barred", "Holders of Tenant editor may never edit events, whatever else they hold."],
  [
    "event.edit",
    "withheld",
    "Holders of Tenant editor are not given “edit events” here, though another role gives it.",
  ],
])("%s, %s", (capability, said, words) => {
  expect(says(capability, said)).toBe(words);
});

test("the baseline is named for whom it is", () => {
  expect(says("event.see", "all", role({ baseline: "everyone" }))).toBe(
    "Everyone, visitors too, may see all events.",
  );
  expect(says("event.see", "own", role({ baseline: "signed-in" }))).toMatch(/^Everyone signed in may see/);
});

test("what an answer decides is stressed", () => {
  expect(sentence(role(), cell("event.edit", { said: "all" }), CATALOGUE).stress).toBe("all events");
  expect(sentence(role(), cell("event.edit"), CATALOGUE).stress).toBe("not");
});

test("what is not in the catalogue is called by its key", () => {
  expect(says("tide.measure", "all")).toBe("Holders of Tenant editor may measure all tide.");
});

test("heads name the kind and the verb, or the area and the duty", () => {
  expect(headOf("berth.publish", CATALOGUE)).toBe("Berth page · Publish");
  expect(headOf("roster.see", CATALOGUE)).toBe("Duties · See the roster");
});

describe("what counts", () => {
  const counts = (said: string | null, inherited: string | null, baseline: string | null) =>
    effective(cell("event.edit", { said, inherited, baseline }));

  it("is what the role says itself, before all else", () => {
    expect(counts("withheld", "all", "own")).toEqual({ says: "withheld", source: "own" });
  });
  it("is what it builds on, before the baseline", () => {
    expect(counts(null, "team", "own")).toEqual({ says: "team", source: "built-on" });
  });
  it("is the baseline where what it builds on withholds", () => {
    expect(counts(null, "withheld", "own")).toEqual({ says: "own", source: "baseline" });
  });
  it("is what it builds on withholding where nothing else is said", () => {
    expect(counts(null, "withheld", null)).toEqual({ says: "withheld", source: "built-on" });
  });
  it("is nothing of its own where nobody says anything", () => {
    expect(counts(null, null, null)).toEqual({ says: null, source: "own" });
  });
});

describe("keys", () => {
  it("say an extent of what is graded, and yes of a duty", () => {
    expect(["o", "t", "a", "y"].map((key) => saidBy(key, false))).toEqual(["own", "team", "all", undefined]);
    expect(["o", "t", "a", "y"].map((key) => saidBy(key, true))).toEqual([
      undefined,
      undefined,
      undefined,
      "yes",
    ]);
  });
  it("withhold, bar and unsay either", () => {
    for (const duty of [true, false]) {
      expect(["w", "b", "Delete", "Backspace", "x"].map((key) => saidBy(key, duty))).toEqual([
        "withheld",
        "barred",
        null,
        null,
        undefined,
      ]);
    }
  });
  it("are those the choices of a cell name", () => {
    for (const capability of ["event.edit", "locks.open"]) {
      const duty = capability === "locks.open";
      for (const choice of choices(cell(capability), CATALOGUE)) {
        expect(saidBy(choice.key, duty)).toBe(choice.says);
      }
    }
  });
});
