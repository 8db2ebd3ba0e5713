// What the lines of a text say, asked of the server a few at a time and kept by their words.
import { answer, api, type Shapes } from "../../api/client";

export type Line = Shapes["SaidLineShape"];

/** So many lines are asked at once. */
const AT_ONCE = 50;

export class Lines {
  private readonly known = new Map<string, Line>();
  private readonly asked = new Set<string>();

  /** What a line says, if that is known by now. */
  of(line: string): Line | undefined {
    return this.known.get(line);
  }

  /** Whether there was something among them that was not known, and is now. */
  async learn(lines: string[]): Promise<boolean> {
    const unknown = [...new Set(lines)].filter((line) => line.trim() !== "" && !this.asked.has(line));
    for (const line of unknown) this.asked.add(line);
    for (let first = 0; first < unknown.length; first += AT_ONCE) {
      const some = unknown.slice(first, first + AT_ONCE);
      try {
        const said = await ask(some);
        for (const [at, line] of some.entries()) this.known.set(line, said[at] as Line);
      } catch (error) {
        for (const line of unknown.slice(first)) this.asked.delete(line);
        throw error;
      }
    }
    return unknown.length > 0;
  }

  /** Forget all: access changed. */
  forget() {
    this.known.clear();
    this.asked.clear();
  }
}

export function ask(lines: string[]): Promise<Line[]> {
  return answer(api.POST("/api/sentences", { body: { text: lines.join("\n") } }));
}

/** Where the names of a sentence stand in the line as it was typed. */
export function namesIn(line: string, said: Line): { from: number; to: number; sort: string }[] {
  const low = line.toLowerCase();
  let after = 0;
  return said.parts.flatMap(({ text, sort }) => {
    if (!sort) return [];
    const from = low.indexOf(text.toLowerCase(), after);
    if (from < 0) return [];
    after = from + text.length;
    return [{ from, to: after, sort }];
  });
}

/** Where the note of a line begins, after its last name; less than nothing where it has none. */
export function noteIn(line: string, said: Line): number {
  if (said.kind === "nothing") return line.indexOf("#");
  const last = namesIn(line, said).at(-1);
  return line.indexOf("#", last?.to ?? 0);
}

/** What stands at the end of a line: how many answers it is, or what is against it. */
export function endOf(said: Line, reason: (key: string) => string): string {
  if (said.kind === "unclear") return said.offers.length ? "is it one of these?" : "this makes no sense";
  if (said.kind === "change") return said.so === null ? "" : said.so ? "it is so" : "not so";
  if (said.kind !== "expectation") return "";
  if (said.so === null) return "asked once it is kept";
  if (said.so) {
    if (said.asked === null) return "";
    return said.asked === 1 ? "once" : said.asked === 0 ? "asks nothing" : `${said.asked} answers`;
  }
  const against = said.against;
  if (!against) return "breaks";
  return `${against.name}${against.title && said.asked !== 1 ? ` on ${against.title}` : ""}: ${reason(against.reason)}`;
}
