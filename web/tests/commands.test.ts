// What Ctrl K does, for whom; and which kind a new one is most like.
import { describe, expect, it, test } from "vitest";
import { mostLike } from "../src/define/LikeKind";
import type { Session } from "../src/shared/session";
import { commandsOf } from "../src/shell/commands";

const DUTIES = ["accounts.invite", "roster.see", "roles.define", "kinds.define", "impersonate.start"];

function offered(said: Partial<Session>, staged = 0, makes = false): string[] {
  const session = { duties: [], places: [], standing_in: null, ...said } as never as Session;
  return commandsOf({ session, staged, makes }).map(({ name }) => name);
}

describe("commands", () => {
  it("are for whoever has the duty of each, and no others", () => {
    expect(offered({})).toEqual([]);
    const each: Record<string, string[]> = {
      "accounts.invite": ["Take somebody on"],
      "roster.see": [],
      "roles.define": ["New role"],
      "kinds.define": ["New kind of content"],
      "impersonate.start": ["Stand in for …"],
    };
    for (const duty of DUTIES) expect(offered({ duties: [duty] }), duty).toEqual(each[duty]);
    expect(offered({ duties: ["accounts.invite", "roster.see"] })).toContain("Bring in a list of people");
  });

  it("make a page only where something may be made, on a desk that is open", () => {
    expect(offered({ places: ["desk"] }, 0, true)).toEqual(["New page"]);
    expect(offered({ places: ["desk"] }, 0, false)).toEqual([]);
    expect(offered({}, 0, true)).toEqual([]);
  });

  it("apply what is staged, but not while one only looks; nobody stands in from within", () => {
    expect(offered({ duties: DUTIES }, 2)[0]).toBe("Review and apply what is staged");
    const looks = offered({ duties: DUTIES, standing_in: { mode: "look" } as never }, 2);
    expect(looks).not.toContain("Review and apply what is staged");
    expect(looks).not.toContain("Stand in for …");
    const rehearses = offered({ duties: DUTIES, standing_in: { mode: "rehearse" } as never }, 2);
    expect(rehearses).toContain("Review and apply what is staged");
  });
});

const kind = (key: string, under: string[]) => ({ key, under }) as never;

test("a new kind is most like the one that stands under the same kinds", () => {
  const kinds = [kind("section", ["home", "section"]), kind("event", ["section"]), kind("home", [])];
  expect(mostLike(kinds, ["section"])).toBe("event");
  expect(mostLike(kinds, ["home", "section"])).toBe("section");
  expect(mostLike(kinds, ["home"])).toBe("section");
  expect(mostLike(kinds, ["berth"])).toBeNull();
});
