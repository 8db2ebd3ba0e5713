// A walk list: what a role is to be tried on, how far that has come, and rehearsing it from here.
import { useNavigate, useParams } from "react-router";
import { ProvedCloth } from "../../cloth/ProvedCloth";
import { useDuty, useSession, useStandIn } from "../../shared/session";
import { useRehearses } from "../../shared/standin/useRehearsal";
import { TextLink } from "../../shared/TextLink";
import { Button, Chip, Empty, ErrorNotice, Loading } from "../../shared/ui";
import { useParam } from "../../shared/useParam";
import { useMakeWalkList, useWalkList, type WalkItem, type WalkList } from "../../shared/walks/useWalks";
import { WalkEntry } from "../../shared/walks/WalkEntry";
import { told } from "./Coverage";
import { Walkers } from "./Walkers";

type Show = "" | "open" | "otherwise" | "deny";
const FILTERS: { show: Show; name: string; holds: (item: WalkItem) => boolean }[] = [
  { show: "", name: "All", holds: () => true },
  { show: "open", name: "Not tried yet", holds: ({ state }) => state === "open" },
  { show: "otherwise", name: "Went otherwise", holds: ({ state }) => state === "otherwise" },
  { show: "deny", name: "Must be refused", holds: ({ expect }) => expect === "deny" },
];

export function WalkPlace() {
  const { list = "" } = useParams();
  const walk = useWalkList(list);
  const [show, setShow] = useParam("show");
  if (walk.error) return <ErrorNotice error={walk.error} again={walk.refetch} />;
  if (!walk.data) return <Loading what="the walk list" />;
  const { entries, role, word, given } = walk.data;
  const filter = FILTERS.find((one) => one.show === show) ?? FILTERS[0];
  const shown = entries.filter((item) => filter?.holds(item));
  return (
    <div className="flex min-w-0 flex-1 max-[900px]:flex-col max-[900px]:overflow-y-auto">
      <section
        aria-label={`Walk list, ${role.name}`}
        className="min-w-0 flex-1 overflow-y-auto px-[28px] pt-[26px] pb-10"
      >
        <div className="flex flex-wrap items-center gap-4">
          <ProvedCloth cloth={role.cloth} proved={walk.data.proved} of={walk.data.items} size={36} />
          <div className="min-w-0 flex-1">
            <h1>Walk list, {role.name}</h1>
            <p className="text-ink2">{told(walk.data)}</p>
          </div>
          <Rehearse list={walk.data} />
        </div>
        {given && word && <p className="mt-3 max-w-[640px] border-l-[3px] border-brass pl-2.5">{word}</p>}
        <News list={walk.data} />
        <div className="mt-4 flex flex-wrap gap-2">
          {FILTERS.map((one) => (
            <Chip key={one.show} on={filter === one} onClick={() => setShow(one.show)}>
              {one.name} {entries.filter(one.holds).length}
            </Chip>
          ))}
        </div>
        {shown.length === 0 ? (
          <Empty title="None like that">Everything else of this list is as it was.</Empty>
        ) : (
          <ul className="mt-2 max-w-[760px]">
            {shown.map((item) => (
              <WalkEntry key={item.key} item={item}>
                <Where item={item} />
              </WalkEntry>
            ))}
          </ul>
        )}
      </section>
      <Walkers list={walk.data} />
    </div>
  );
}

/** Where to try it, which one goes to while one rehearses. */
function Where({ item: { page, state, question } }: { item: WalkItem }) {
  const rehearses = useRehearses();
  const asks = useDuty("impersonate.start");
  const why = state === "otherwise" && question && asks;
  if (state === "proved" || (!page && !why)) return null;
  return (
    <span className="flex flex-wrap gap-x-3 text-xs text-ink2">
      {page &&
        (rehearses ? (
          <TextLink to={`/desk/${page.id}`}>Try it on {page.title}</TextLink>
        ) : (
          <>to be tried on {page.title}</>
        ))}
      {why && <TextLink to={`/why?${new URLSearchParams(question)}`}>Why</TextLink>}
    </span>
  );
}

/** The ways to walk it: as somebody who holds the role alone, who wrote everything or nothing; or as oneself. */
function Rehearse({ list }: { list: WalkList }) {
  const session = useSession().data;
  const standIn = useStandIn();
  const navigate = useNavigate();
  const stands = useDuty("impersonate.start");
  const holds = session?.actor?.roles.some(({ key }) => key === list.role.key);
  const may = (useDuty("rehearsal.start") && holds) || list.given;
  const [own, setOwn] = useParam("own");
  if (session?.standing_in)
    return (
      <Button look="main" onClick={() => navigate("/desk")}>
        On with the rehearsal
      </Button>
    );
  return (
    <div className="flex flex-wrap items-center justify-end gap-2">
      <ErrorNotice error={standIn.error} />
      {may && session?.actor && (
        <Button
          disabled={standIn.isPending}
          look={stands ? "plain" : "main"}
          onClick={() => standIn.mutate({ whom: { account: session.actor?.id ?? "" }, mode: "rehearse" })}
        >
          Rehearse as yourself
        </Button>
      )}
      {stands && (
        <>
          <Chip on={own === ""} onClick={() => setOwn("")}>
            author of everything
          </Chip>
          <Chip on={own === "nothing"} onClick={() => setOwn("nothing")}>
            of nothing
          </Chip>
          <Button
            look="main"
            disabled={standIn.isPending}
            onClick={() =>
              standIn.mutate({
                whom: { roles: [{ role: list.role.key, scope: {} }], groups: [], own: own === "" },
                mode: "rehearse",
              })
            }
          >
            Rehearse as {list.role.name}
          </Button>
        </>
      )}
    </div>
  );
}

/** What the board says by now and the list does not. */
function News({ list: { news, role } }: { list: WalkList }) {
  const make = useMakeWalkList();
  if (!news || (news.more === 0 && news.gone === 0)) return null;
  const told = [
    news.more && `${news.more} more to try`,
    news.gone && `${news.gone} that are not so any more`,
  ];
  return (
    <p
      role="status"
      className="mt-3 flex flex-wrap items-center gap-3 rounded border border-brass bg-[#fbf3dc] px-3 py-2 text-sm"
    >
      Access changed since this list was made: {told.filter(Boolean).join(", ")}.
      <Button disabled={make.isPending} onClick={() => make.mutate(role.key)}>
        Make it anew
      </Button>
      <ErrorNotice error={make.error} />
    </p>
  );
}
