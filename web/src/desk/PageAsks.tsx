// What one may not do with a page: to be asked for; and why each answer is what it is.
import { Popover } from "radix-ui";
import { useState } from "react";
import { AskAccess } from "../shared/AskAccess";
import { Menu, MenuItem } from "../shared/Menu";
import { useDuty, useSession } from "../shared/session";
import { Button } from "../shared/ui";
import { useActionsOnPages } from "../shared/useWords";
import { WhyTrail } from "../shared/Why";
import type { Page } from "./useDesk";

/** What one may not do here, each to be asked for. */
export function AskMenu({ page }: { page: Page }) {
  const closed = useActionsOnPages().filter(({ key }) => key !== "see" && !page.may.includes(key));
  const [asked, ask] = useState<(typeof closed)[number] | null>(null);
  if (closed.length === 0) return null;
  return (
    <>
      <Menu trigger={<Button look="quiet">Ask…</Button>} label="What you may not do here">
        {closed.map((action) => (
          <MenuItem key={action.key} onSelect={() => ask(action)}>
            {action.name}
          </MenuItem>
        ))}
      </Menu>
      <AskAccess
        asked={asked && { action: asked.key, node: page.id }}
        words={`${asked?.name.toLowerCase() ?? ""} this page`}
        onClose={() => ask(null)}
      />
    </>
  );
}

/** Every action on the page with yes or no; choosing one tells why. */
export function WhyMenu({ page }: { page: Page }) {
  const session = useSession().data;
  const mayAsk = useDuty("impersonate.start") || Boolean(session?.standing_in);
  const actions = useActionsOnPages();
  const [asked, ask] = useState<string | null>(null);
  if (!mayAsk) return null;
  return (
    <Popover.Root onOpenChange={() => ask(null)}>
      <Popover.Trigger asChild>
        <Button>Why?</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          collisionPadding={12}
          aria-label="What may be done here, and why"
          className="z-50 w-[430px] max-w-[94vw] rounded-lg border border-brass bg-paper p-4 shadow-2xl"
        >
          {asked ? (
            <>
              <WhyTrail question={{ action: asked, node: page.id }} />
              <Button look="quiet" className="mt-1 -ml-2" onClick={() => ask(null)}>
                ← Other actions
              </Button>
            </>
          ) : (
            <>
              <h2 className="mb-1 text-lead">
                What {session?.standing_in ? session.subject?.name : "you"} may do here
              </h2>
              <ul>
                {actions.map(({ key: action, name }) => (
                  <li key={action}>
                    <button
                      type="button"
                      onClick={() => ask(action)}
                      className="flex w-full justify-between rounded px-2 py-1 text-left text-sm hover:bg-chosen"
                    >
                      <span>{name}</span>
                      <span className={page.may.includes(action) ? "font-semibold" : "text-ink2"}>
                        {page.may.includes(action) ? "may" : "may not"}
                      </span>
                    </button>
                  </li>
                ))}
              </ul>
            </>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
