// What else can be done with a page: copied, moved, removed.
import { useState } from "react";
import { useNavigate } from "react-router";
import { Menu, MenuItem, MenuSeparator } from "../shared/Menu";
import { Button, ErrorNotice } from "../shared/ui";
import { HandOn } from "./HandOn";
import { MovePage } from "./MovePage";
import { RemovePage } from "./RemovePage";
import type { Page } from "./useDesk";
import { useDuplicate } from "./usePlaces";

export function PageMenu({ page, disabled }: { page: Page; disabled: boolean }) {
  const [dialog, show] = useState<"" | "move" | "hand on" | "remove">("");
  const duplicate = useDuplicate();
  const navigate = useNavigate();
  const may = (action: string) => page.parent !== null && page.may.includes(action);
  if (page.parent === null) return null;
  const copy = (beneath: boolean) =>
    duplicate.mutate(
      { node: page.id, beneath },
      { onSuccess: ({ id }) => navigate(`/desk/${id}${window.location.search}`) },
    );
  return (
    <>
      <Menu trigger={<Button disabled={disabled || duplicate.isPending}>More</Button>}>
        <MenuItem onSelect={() => copy(false)}>Duplicate</MenuItem>
        <MenuItem onSelect={() => copy(true)}>Duplicate with what is beneath</MenuItem>
        {may("move") && <MenuItem onSelect={() => show("move")}>Move…</MenuItem>}
        {page.may_hand_on && <MenuItem onSelect={() => show("hand on")}>Hand on…</MenuItem>}
        {may("remove") && (
          <>
            <MenuSeparator />
            <MenuItem onSelect={() => show("remove")}>Remove…</MenuItem>
          </>
        )}
      </Menu>
      <ErrorNotice error={duplicate.error} />
      <MovePage page={page} open={dialog === "move"} onClose={() => show("")} />
      <HandOn page={page} open={dialog === "hand on"} onClose={() => show("")} />
      <RemovePage page={page} open={dialog === "remove"} onClose={() => show("")} />
    </>
  );
}
