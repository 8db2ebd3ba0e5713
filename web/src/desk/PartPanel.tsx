// The right side of the desk: the chosen component by its facets, then the page's fields.

import { Tabs } from "radix-ui";
import { useState } from "react";
import type { ProblemError } from "../api/client";
import { NameMenu } from "../shared/NameMenu";
import { useRehearsedLists } from "../shared/walks/useWalks";
import { AccessPanel } from "./AccessPanel";
import { ClosedField } from "./ClosedField";
import { ComponentForm } from "./ComponentForm";
import { drawnKey } from "./components";
import { Discussion } from "./Discussion";
import { FieldInput } from "./FieldInput";
import { PageListing, SiteListing } from "./Listing";
import { lockOf } from "./Locks";
import { Topics } from "./Topics";
import type { Ghost, Page, PageComponent } from "./useDesk";
import { WalkPanel } from "./WalkPanel";

type PanelProps = {
  page: Page;
  values: Record<string, unknown>;
  ghosts: Ghost[];
  chosen: string | null;
  problem: ProblemError | null;
  onComponents: (components: PageComponent[], what: string) => void;
  onChoose: (id: string) => void;
  onTopics: (topics: string[]) => void;
  onValue: (key: string, value: unknown) => void;
};

/** What is on the right: the page itself, or what is said about access to it. */
export function PartPanel(props: PanelProps) {
  const [side, turn] = useState<"page" | "access" | "walk">("page");
  const lists = useRehearsedLists();
  return (
    <aside
      aria-label="Parts of the page"
      className="w-[318px] shrink-0 max-[1180px]:w-[270px] overflow-y-auto border-l border-line bg-paper pt-[12px] pb-8 max-[760px]:hidden max-[760px]:w-full max-[760px]:border-0 max-[760px]:group-data-[side=fields]/desk:block"
    >
      <Tabs.Root value={side} onValueChange={(next) => turn(next as typeof side)}>
        <Tabs.List aria-label="Sides of the page" className="mx-[18px] mb-3 flex gap-4 border-b border-line">
          {[["page", "Page"], ["access", "Access"], ...(lists.length > 0 ? [["walk", "Walk list"]] : [])].map(
            ([key = "", name]) => (
              <Tabs.Trigger
                key={key}
                value={key}
                className="-mb-px border-b-[3px] border-transparent pb-1 text-sm text-ink2 hover:text-ink data-[state=active]:border-brass data-[state=active]:font-bold data-[state=active]:text-ink"
              >
                {name}
              </Tabs.Trigger>
            ),
          )}
        </Tabs.List>
        <Tabs.Content value={side} tabIndex={-1}>
          {side === "page" && <Parts {...props} />}
          {side === "access" && <AccessPanel page={props.page} chosen={props.chosen} />}
          {side === "walk" && lists.length > 0 && <WalkPanel node={props.page.id} lists={lists} />}
        </Tabs.Content>
      </Tabs.Root>
    </aside>
  );
}

function Parts(props: PanelProps) {
  const { page, values, ghosts, chosen, problem, onComponents, onChoose, onTopics, onValue } = props;
  const at = page.components.findIndex((component) => component.id === chosen);
  const component = page.components[at];
  const hiddenFields = ghosts.filter((ghost) => ghost.kind === "field");
  return (
    <>
      {component && (
        <ComponentForm
          key={drawnKey(component.id)}
          page={page}
          at={at}
          component={component}
          problem={problem}
          onComponents={onComponents}
          onChoose={onChoose}
        />
      )}
      <h2 className="mb-1 px-[18px]">Page fields</h2>
      {page.fields.length === 0 && hiddenFields.length === 0 && (
        <p className="px-[18px] text-sm text-ink2">None.</p>
      )}
      {page.fields.map((field) => (
        <FieldInput
          key={field.key}
          field={field}
          lock={lockOf(page, { field: field.key })}
          value={field.key in values ? values[field.key] : field.value}
          error={problem?.at(`/values/${field.key}`)}
          onChange={(value) => onValue(field.key, value)}
        />
      ))}
      {hiddenFields.map((ghost) => (
        <ClosedField
          key={ghost.key}
          name={ghost.name}
          note="hidden field"
          question={{ action: "see-field", node: page.id, field: ghost.key }}
        />
      ))}
      <Topics page={page} onChange={onTopics} />
      {page.tree === "content" && !page.working && <PageListing key={`listing-${page.id}`} page={page} />}
      {page.may_edit_site_listing && page.tree === "content" && (
        <SiteListing key={page.site} site={page.site} />
      )}
      {!page.working && <Discussion node={page.id} />}
      <p className="mt-4 px-[18px] text-xs text-ink2">
        {page.author && (
          <span className="group/name inline-flex items-center">
            Written by {page.author}.
            {page.author_id && <NameMenu of={{ account: page.author_id }} name={page.author} />}
          </span>
        )}{" "}
        {page.saved_by ? `Last saved by ${page.saved_by}.` : ""}
      </p>
    </>
  );
}
