// An account's page: what is given, what that adds up to, and where.
import { useState } from "react";
import { CutPortrait } from "../shared/CutPortrait";
import { useStage } from "../shared/changes/changeSet";
import { Menu, MenuItem, MenuSeparator } from "../shared/Menu";
import { Portrait } from "../shared/Portrait";
import { GroupPicker } from "../shared/pickers";
import { mayHopeToStandIn, useDuty, useSession, useStandIn } from "../shared/session";
import { StandInDialog } from "../shared/standin/StandInDialog";
import { TextButton } from "../shared/TextLink";
import { Button, Chip, Empty, ErrorNotice, Loading } from "../shared/ui";
import {
  type AccountData,
  useGroups,
  useInviteAgain,
  useLetAddressGo,
  useRemoveFactors,
  useSendReset,
  useTaggedAccount,
} from "../shared/useAccounts";
import { Disable, EnableButton } from "./Disable";
import { EditAccount } from "./EditAccount";
import { Give, type Giving } from "./Give";
import { GivenList } from "./GivenList";
import { Reach } from "./Reach";
import { SumBoard } from "./SumBoard";
import { WherePicture } from "./WherePicture";

export function AccountPage({ account }: { account: string }) {
  const page = useTaggedAccount(account);
  if (page.error) return <ErrorNotice error={page.error} again={page.refetch} />;
  if (!page.data) return <Loading what="the account" />;
  return <Page data={page.data.data} tag={page.data.tag} />;
}

function Page({ data, tag }: { data: AccountData; tag: string }) {
  const { account: row } = data;
  const [giving, give] = useState<Giving | null>(null);
  const [confining, confine] = useState(false);
  const mayGive = useDuty("roles.assign");
  const to = { kind: "account", id: row.id, name: row.name } as const;
  return (
    <section className="min-w-0 flex-1 overflow-y-auto px-[24px] pt-[30px] pb-8" aria-label={row.name}>
      <Head data={data} tag={tag} />
      <Memberships data={data} />
      <h2 className="mt-4 mb-1">Given</h2>
      <GivenList
        given={data.given}
        used={data.used}
        onChange={(given) => give({ what: given.role ? "role" : "capability", given })}
      />
      {mayGive && (
        <div className="mt-2.5 flex gap-2">
          <Button onClick={() => give({ what: "role" })}>Give a role</Button>
          <Button onClick={() => give({ what: "capability" })}>Give one capability</Button>
          <Button onClick={() => confine(true)}>Confine to branches</Button>
        </div>
      )}
      <Give giving={giving} to={to} onClose={() => give(null)} />
      <Reach open={confining} onClose={() => confine(false)} data={data} />
      <h2 className="mt-6 mb-1">What that adds up to</h2>
      {row.keyholder ? (
        <Empty title="Everything, always">
          {row.name} is a keyholder. No role gives it and no limit or bar takes anything away.
        </Empty>
      ) : (
        data.sum && <SumBoard sum={data.sum} account={row} />
      )}
      <WherePicture account={row.id} reach={data.reach} />
    </section>
  );
}

function Head({ data, tag }: { data: AccountData; tag: string }) {
  const { account: row } = data;
  const standIn = useStandIn();
  const me = useSession().data?.actor;
  const mayStandIn = useDuty("impersonate.start");
  return (
    <>
      <header className="flex items-center gap-[14px]">
        <Portrait name={row.name} picture={data.who.portrait} />
        <div className="min-w-0 flex-1">
          <h1 className="truncate">{row.name}</h1>
          <p className="truncate text-ink2">
            {row.email}, {data.state}
            {data.state === row.state ? "" : " once it is applied"}
            {row.desk ? "" : ", visitor"}
          </p>
          <Profile data={data} />
          {data.new_address && <NewAddress account={row.id} address={data.new_address} />}
        </div>
        <More data={data} tag={tag} />
        {mayStandIn && mayHopeToStandIn(row, me) && (
          <Button
            look="main"
            onClick={() => standIn.mutate({ whom: { account: row.id } })}
            disabled={standIn.isPending}
          >
            Stand in
          </Button>
        )}
      </header>
      <ErrorNotice error={standIn.error} />
    </>
  );
}

/** A new address that waits to be confirmed, and letting it go. */
function NewAddress({ account, address }: { account: string; address: string }) {
  const letGo = useLetAddressGo(account);
  return (
    <div className="flex items-baseline gap-2 text-xs text-ink2">
      <span className="truncate">{address} waits to be confirmed</span>
      <TextButton onClick={() => letGo.mutate()} aria-label={`Take ${address} back`}>
        Take it back
      </TextButton>
      <ErrorNotice error={letGo.error} />
    </div>
  );
}

/** What the profile says, and what one signs in with besides the password. */
function Profile({ data }: { data: AccountData }) {
  const said = data.who.profile.filter(({ value }) => value).map(({ name, value }) => `${name}: ${value}`);
  if (data.factors.length > 0) said.push("with a second factor");
  return said.length > 0 ? <p className="truncate text-xs text-ink2">{said.join(", ")}</p> : null;
}

function More({ data, tag }: { data: AccountData; tag: string }) {
  const { account: row } = data;
  const [dialog, show] = useState<"" | "edit" | "portrait" | "disable" | "at">("");
  const me = useSession().data?.actor;
  const mayStandIn = useDuty("impersonate.start") && mayHopeToStandIn(row, me);
  const mayInvite = useDuty("accounts.invite");
  const mayDisable = useDuty("accounts.disable");
  const invite = useInviteAgain(row.id);
  const reset = useSendReset(row.id);
  const removeFactors = useRemoveFactors(row.id);
  const said = removeFactors.isSuccess
    ? "The second factor is taken away."
    : invite.isSuccess
      ? "The invitation is on its way."
      : reset.isSuccess
        ? "A link for a new password is on its way."
        : "";
  return (
    <>
      <span role="status" className="text-xs text-ink2">
        {said}
      </span>
      {row.state === "disabled" && mayDisable && <EnableButton account={row.id} />}
      <Menu trigger={<Button>More</Button>}>
        {mayStandIn && <MenuItem onSelect={() => show("at")}>Rehearse, or on a date…</MenuItem>}
        <MenuItem onSelect={() => show("edit")}>Change name, address, profile</MenuItem>
        <MenuItem onSelect={() => show("portrait")}>Change the portrait</MenuItem>
        {mayInvite && data.factors.length > 0 && (
          <MenuItem onSelect={() => removeFactors.mutate()}>Take the second factor away</MenuItem>
        )}
        {mayInvite && row.state === "invited" && (
          <MenuItem onSelect={() => invite.mutate("")}>Invite again</MenuItem>
        )}
        {mayInvite && row.state === "active" && (
          <MenuItem onSelect={() => reset.mutate()}>Send a link for a new password</MenuItem>
        )}
        {mayDisable && row.state !== "disabled" && (
          <>
            <MenuSeparator />
            <MenuItem onSelect={() => show("disable")}>Disable, and hand over</MenuItem>
          </>
        )}
      </Menu>
      <ErrorNotice error={invite.error ?? reset.error ?? removeFactors.error} />
      <StandInDialog
        open={dialog === "at"}
        onClose={() => show("")}
        whom={{ account: row.id }}
        name={row.name}
      />
      <EditAccount open={dialog === "edit"} onClose={() => show("")} data={data} tag={tag} />
      <CutPortrait
        open={dialog === "portrait"}
        onClose={() => show("")}
        account={row.id}
        portrait={data.who.portrait}
      />
      <Disable open={dialog === "disable"} onClose={() => show("")} account={row.id} name={row.name} />
    </>
  );
}

/** The groups the account is in itself; each can be left, others joined. */
function Memberships({ data }: { data: AccountData }) {
  const groups = new Map(useGroups().data?.map((group) => [group.key, group.name]));
  const mayGive = useDuty("roles.assign");
  const stage = useStage();

  function member(group: string, on: boolean) {
    stage.mutate([{ kind: "set-member", account: data.account.id, group, member: on }]);
  }

  if (data.memberships.length === 0 && !mayGive) return null;
  return (
    <div className="mt-3 flex flex-wrap items-center gap-1.5">
      <span className="text-sm text-ink2">In</span>
      {data.memberships.length === 0 && <span className="text-sm text-ink2">no group</span>}
      {data.memberships.map(({ key, staged }) => (
        <Chip
          key={key}
          disabled={!mayGive}
          onClick={() => member(key, staged === "ending")}
          aria-label={
            staged === "ending"
              ? `Stay in ${groups.get(key) ?? key}`
              : `Take out of ${groups.get(key) ?? key}`
          }
        >
          {staged && <span className="inline-block size-[7px] rounded-full bg-brass" aria-hidden="true" />}
          <span className={staged === "ending" ? "line-through" : ""}>{groups.get(key) ?? key}</span>
          {mayGive && <span aria-hidden="true">{staged === "ending" ? "↺" : "×"}</span>}
        </Chip>
      ))}
      {mayGive && (
        <GroupPicker
          but={data.memberships.map(({ key }) => key)}
          onPick={(key) => member(key, true)}
          trigger={<Chip>+ group</Chip>}
        />
      )}
      <ErrorNotice error={stage.error} />
    </div>
  );
}
