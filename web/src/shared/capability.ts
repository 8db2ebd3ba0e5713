// What a capability is called: its verb, what it is about, and how a heading names it.
import type { Catalogue } from "./useRoles";

/** `which` pages the end of the verb means: "see unpublished" are those that are unpublished. */
type Words = { verb: string; thing: string; which: string; kind: "graded" | "create" | "duty" };

export function wordsOf(capability: string, catalogue: Catalogue): Words {
  const duty = catalogue.duties.find((d) => d.key === capability);
  if (duty) return { verb: duty.phrase, thing: "", which: "", kind: "duty" };
  const [type, verb] = capability.split(".");
  const { phrase = verb ?? "", which = "" } = catalogue.verbs.find((v) => v.key === verb) ?? {};
  const thing = catalogue.types.find((t) => t.key === type)?.plural ?? type ?? "";
  return { verb: phrase, thing, which, kind: verb === "create" ? "create" : "graded" };
}

export function headOf(capability: string, catalogue: Catalogue): string {
  const duty = catalogue.duties.find((d) => d.key === capability);
  if (duty) return `${duty.area} · ${duty.name}`;
  const [type, verb] = capability.split(".");
  return `${catalogue.types.find((t) => t.key === type)?.name} · ${catalogue.verbs.find((v) => v.key === verb)?.name}`;
}

/** What can be done with profiles, which are in no tree. */
export function profilesOf(catalogue: Catalogue): string[] {
  return catalogue.types
    .filter(({ tree }) => !tree)
    .flatMap(({ key }) => ["see", "edit"].map((verb) => `${key}.${verb}`));
}

/** What a capability is called where it stands by itself: "See profiles", or the name of a duty. */
export function nameOf(capability: string, catalogue: Catalogue): string {
  const duty = catalogue.duties.find(({ key }) => key === capability);
  const { verb, thing } = wordsOf(capability, catalogue);
  return duty?.name ?? `${verb.charAt(0).toUpperCase()}${verb.slice(1)} ${thing}`;
}

/** Every capability there is, in the order of the board. */
export function capabilitiesOf(catalogue: Catalogue): string[] {
  const trees = catalogue.types.filter(({ tree }) => tree);
  const graded = trees.flatMap((type) => catalogue.verbs.map((verb) => `${type.key}.${verb.key}`));
  return [...graded, ...profilesOf(catalogue), ...catalogue.duties.map((duty) => duty.key)];
}
