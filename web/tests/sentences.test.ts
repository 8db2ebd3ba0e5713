// @vitest-environment jsdom
// What lines of sentences say: asked once, by their words; where names and notes stand in what was typed.
import { describe, expect, it } from "vitest";
import { sentTo, serve } from "./serving";

const { isSentence } = await import("../src/shell/FoundSentence");
const { endOf, Lines, namesIn, noteIn } = await import("../src/verify/sentences/lines");
type Line = import("../src/verify/sentences/lines").Line;

const SAID: Line = {
  kind: "expectation",
  parts: [
    { text: "Ines Marrow", sort: "account" },
    { text: " may edit ", sort: "" },
    { text: "Fees", sort: "node" },
    { text: ".", sort: "" },
  ],
  question: {},
  so: true,
  asked: 1,
  against: null,
  reason: null,
  operations: [],
  at: null,
  length: null,
  message: null,
  offers: [],
};
const reason = (key: string) => key;

describe("lines", () => {
  it("are asked once each, and again once access changed", async () => {
    serve({ "POST /api/sentences": [SAID] });
    const lines = new Lines();
    expect(await lines.learn(["ines marrow may edit fees", "", "ines marrow may edit fees"])).toBe(true);
    expect(await lines.learn(["ines marrow may edit fees"])).toBe(false);
    expect(lines.of("ines marrow may edit fees")).toEqual(SAID);
    lines.forget();
    expect(lines.of("ines marrow may edit fees")).toBeUndefined();
    await lines.learn(["ines marrow may edit fees"]);
    expect(sentTo("POST", "/api/sentences")).toHaveLength(2);
  });

  it("are asked again where the answer did not come", async () => {
    serve({ "POST /api/sentences": () => ({ status: 500, body: { reason: "server" } }) });
    const lines = new Lines();
    await expect(lines.learn(["Visitors may see Fees."])).rejects.toThrow();
    serve({ "POST /api/sentences": [SAID] });
    expect(await lines.learn(["Visitors may see Fees."])).toBe(true);
  });

  it("have names where they were typed, and a note behind them", () => {
    const line = "ines marrow may edit FEES. # hers";
    expect(namesIn(line, SAID).map(({ from, to }) => line.slice(from, to))).toEqual(["ines marrow", "FEES"]);
    expect(line.slice(noteIn(line, SAID))).toBe("# hers");
  });

  it("end with how many answers they are, or with what is against them", () => {
    expect(endOf(SAID, reason)).toBe("once");
    expect(endOf({ ...SAID, asked: 30 }, reason)).toBe("30 answers");
    const against = { account: "ines", name: "Ines", node: "f", title: "Fees", reason: "stopped", at: null };
    expect(endOf({ ...SAID, so: false, asked: 2, against }, reason)).toBe("Ines on Fees: stopped");
    expect(endOf({ ...SAID, kind: "unclear", so: null }, reason)).toBe("this makes no sense");
  });
});

describe("what is typed into Ctrl K", () => {
  it("is a sentence where it asks or says that somebody may", () => {
    for (const words of [
      "may Ines edit Fees?",
      "Visitors may see Fees",
      "Ines holds Pilot",
      "stop edit for Ines on Fees",
    ]) {
      expect(isSentence(words)).toBe(true);
    }
    for (const words of ["May day", "Maya", "harbour"]) expect(isSentence(words)).toBe(words === "May day");
  });
});
