// Find anything: places, roles, accounts, pages and capabilities, by a few letters. Ctrl K opens it.
import { useQuery } from "@tanstack/react-query";
import { Command as Palette } from "cmdk";
import { useCallback, useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api, type Shapes } from "../api/client";
import { capabilitiesOf, headOf, wordsOf } from "../shared/capability";
import { useChangeSet } from "../shared/changes/changeSet";
import { keys } from "../shared/keys";
import { type Named, whomOf } from "../shared/NameMenu";
import { type Session, useStandIn } from "../shared/session";
import { VISITOR, type Whom } from "../shared/standin/whom";
import { ErrorNotice } from "../shared/ui";
import { useHotkey } from "../shared/useHotkey";
import { useOffers } from "../shared/useOffers";
import { useCatalogue } from "../shared/useRoles";
import { type Command, commandsOf } from "./commands";
import { FoundSentence, isSentence } from "./FoundSentence";

const KINDS = { role: "Roles", group: "Groups", account: "Accounts", page: "Pages" } as const;
const MOST_CAPABILITIES = 8;
const ROW =
  "flex items-baseline justify-between gap-4 rounded px-3 py-1.5 text-sm data-[selected=true]:bg-chosen";

type Goal = Command & { whom?: Whom };

export function Find({ session }: { session: Session }) {
  const [open, setOpen] = useState(false);
  const [chosen, choose] = useState("");
  useHotkey({ key: "k", control: true }, () => setOpen((now) => !now));
  return (
    <>
      <button
        type="button"
        onClick={() => setOpen(true)}
        className="mr-2 flex items-center gap-3 rounded-[5px] bg-rod2 px-2.5 py-[5px] text-sm whitespace-nowrap text-rod3 hover:text-white"
      >
        <span className="max-[1180px]:sr-only">Find anything</span>
        <kbd className="rounded border border-[#65577a] px-1 text-tiny">Ctrl K</kbd>
      </button>
      <Palette.Dialog
        open={open}
        onOpenChange={setOpen}
        label="Find anything"
        shouldFilter={false}
        value={chosen}
        onValueChange={choose}
        overlayClassName="fixed inset-0 z-40 bg-rod/45"
        contentClassName="fixed top-[12vh] left-1/2 z-50 w-[560px] max-w-[94vw] -translate-x-1/2 overflow-hidden rounded-lg border-t-[3px] border-brass bg-paper text-ink shadow-2xl"
      >
        <Goals session={session} chosen={chosen} onChoice={choose} onGone={() => setOpen(false)} />
      </Palette.Dialog>
    </>
  );
}

type GoalsProps = {
  session: Session;
  chosen: string;
  onChoice: (key: string) => void;
  onGone: () => void;
};

function Goals({ session, chosen, onChoice, onGone }: GoalsProps) {
  const [words, setWords] = useState("");
  const [hasty, setHasty] = useState(false);
  const navigate = useNavigate();
  const asSentence = session.duties.includes("expectations.keep") && isSentence(words.trim());
  const asked = words.replace(STAND_IN, "").trim();
  const standIn = useStandIn();
  const found = useQuery({
    queryKey: keys.find(asked),
    queryFn: () => answer(api.GET("/api/find", { params: { query: { words: asked } } })),
    enabled: asked !== "",
    placeholderData: (before) => before,
  });
  const capabilities = useCapabilities(asked, session);
  const staged = useChangeSet().data?.operations.length ?? 0;
  const makes = Object.keys(useOffers(session.places.includes("desk")).data?.make_under ?? {}).length > 0;
  const standIns = standInsOf(session, asked, found.data ?? []);
  const groups: [string, Goal[]][] = [
    ["Stand in", STAND_IN.test(words) ? standIns : []],
    [
      "Do",
      STAND_IN.test(words)
        ? []
        : commandsOf({ session, staged, makes }).filter(({ name }) => matches(name, asked)),
    ],
    ["Places", placesOf(session).filter(({ name }) => matches(name, asked))],
    ...Object.entries(KINDS).map(([kind, title]): [string, Goal[]] => [
      title,
      (asked ? (found.data ?? []) : [])
        .filter((one) => one.kind === kind)
        .map(({ id, name, note }) => ({ key: `${kind}-${id}`, name, note, to: addressOf(kind, id) })),
    ]),
    ["Capabilities", capabilities],
  ];

  // What comes first is chosen, also when it comes late.
  const first = groups.flatMap(([, goals]) => goals)[0];
  const firstKey = first?.key ?? "";
  useEffect(() => onChoice(firstKey), [firstKey, onChoice]);

  const { mutate: begin } = standIn;
  const go = useCallback(
    ({ to, whom, open, types }: Goal) => {
      if (whom) begin({ whom }, { onSuccess: onGone });
      else if (types) setWords(types);
      else {
        onGone();
        navigate(to || window.location.pathname + window.location.search, open);
      }
    },
    [onGone, navigate, begin],
  );

  // Until the answer is there, what is shown was found by fewer letters: Enter waits for what comes first then.
  const looking = asked !== "" && (found.isLoading || found.isPlaceholderData);
  const awaited = hasty && !looking;
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when what was looked for is there
  useEffect(() => {
    if (awaited && first) go(first);
  }, [awaited]);

  return (
    <>
      <Palette.Input
        value={words}
        onValueChange={(typed) => {
          setWords(typed);
          setHasty(false);
        }}
        onKeyDown={(event) => {
          if (event.key !== "Enter" || !looking || chosen !== firstKey) return;
          event.preventDefault();
          setHasty(true);
        }}
        placeholder="A role, an account, a page; stand in for …; may Ines Marrow edit …?"
        className="w-full border-b border-line bg-transparent px-4 py-3 text-lead outline-none placeholder:text-ink2"
      />
      <ErrorNotice error={standIn.error} />
      {asSentence && <FoundSentence words={words.trim()} />}
      <Palette.List label="Found" className="max-h-[52vh] overflow-y-auto p-1.5">
        {!asSentence && (
          <Palette.Empty className="px-3 py-3 text-sm text-ink2">
            {found.isFetching ? "Looking…" : "Nothing is called that, or you may not see it."}
          </Palette.Empty>
        )}
        {groups.map(([title, goals]) =>
          goals.length > 0 ? (
            <Palette.Group
              key={title}
              heading={title}
              className="[&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:pb-1 [&_[cmdk-group-heading]]:text-xs [&_[cmdk-group-heading]]:font-semibold [&_[cmdk-group-heading]]:text-ink2"
            >
              {goals.map((goal) => (
                <Palette.Item key={goal.key} value={goal.key} onSelect={() => go(goal)} className={ROW}>
                  <span className="truncate">{goal.name}</span>
                  {goal.note && (
                    <span className="max-w-[220px] shrink-0 truncate text-xs text-ink2">{goal.note}</span>
                  )}
                </Palette.Item>
              ))}
            </Palette.Group>
          ) : null,
        )}
      </Palette.List>
    </>
  );
}

/** Whom one may stand in for, of those found: nothing else is meant where the words begin so. */
const STAND_IN = /^stand in( for)?( |$)/i;

type Found = Shapes["FoundShape"];

function standInsOf(session: Session, asked: string, found: Found[]): Goal[] {
  if (session.standing_in || !session.duties.includes("impersonate.start")) return [];
  const visitor = { key: "stand-in-visitor", name: "Stand in for a visitor", to: "", whom: VISITOR };
  const others = found.flatMap(({ kind, id, name, note }): Goal[] => {
    const of = namedBy(kind, id);
    if (asked === "" || !of || id === session.actor?.id) return [];
    return [{ key: `stand-in-${kind}-${id}`, name: `Stand in for ${name}`, note, to: "", whom: whomOf(of) }];
  });
  return asked === "" || matches("a visitor", asked) ? [visitor, ...others] : others;
}

function namedBy(kind: string, id: string): Named | null {
  if (kind === "account") return { account: id };
  if (kind === "role") return { role: id };
  return kind === "group" ? { group: id } : null;
}

function matches(text: string, words: string): boolean {
  const low = text.toLowerCase();
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => low.includes(word));
}

function addressOf(kind: string, id: string): string {
  return (
    { role: `/define/${id}`, group: `/assign/groups/${id}`, account: `/assign/${id}`, page: `/desk/${id}` }[
      kind
    ] ?? "/"
  );
}

function placesOf({ places, duties }: Session): Goal[] {
  const named: Goal[] = places.map((place) => ({
    key: `place-${place}`,
    name: place.charAt(0).toUpperCase() + place.slice(1),
    to: `/${place}`,
  }));
  if (places.includes("define")) {
    named.push({ key: "compare", name: "Compare roles", to: "/define/compare" });
    named.push({
      key: "catalogue",
      name: "Catalogue",
      note: "extensions, markup sets",
      to: "/define/catalogue",
    });
    named.push({ key: "across", name: "What every role says", to: "/define/capability" });
  }
  if (places.includes("verify") && duties.includes("roster.see")) {
    named.push({ key: "report", name: "Report", note: "who can do what, to print", to: "/verify/report" });
  }
  return named;
}

/** Capabilities by their words, for whoever may define roles. */
function useCapabilities(words: string, { places }: Session): Goal[] {
  const catalogue = useCatalogue().data;
  if (!catalogue || words === "" || !places.includes("define")) return [];
  return capabilitiesOf(catalogue)
    .filter((capability) => {
      const { verb, thing } = wordsOf(capability, catalogue);
      return matches(`${headOf(capability, catalogue)} ${verb} ${thing}`, words);
    })
    .slice(0, MOST_CAPABILITIES)
    .map((capability) => ({
      key: `capability-${capability}`,
      name: headOf(capability, catalogue),
      note: "what every role says",
      to: `/define/capability?cell=${capability}`,
    }));
}
