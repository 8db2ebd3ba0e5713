// A menu that hangs from a button: its items do something, or lead somewhere.
import { DropdownMenu } from "radix-ui";
import type { ReactElement, ReactNode } from "react";

type MenuProps = {
  /** The button it hangs from. */
  trigger: ReactElement;
  label?: ReactNode;
  align?: "start" | "end";
  children: ReactNode;
};

export function Menu({ trigger, label, align = "end", children }: MenuProps) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align={align}
          sideOffset={6}
          className="z-50 min-w-[200px] rounded-md border border-line bg-paper p-1 text-sm shadow-xl"
        >
          {label && <DropdownMenu.Label className="px-2 py-1 text-xs text-ink2">{label}</DropdownMenu.Label>}
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** An item; with `asChild` it is the link inside it. */
export function MenuItem({ className = "px-2 py-1.5", ...rest }: DropdownMenu.DropdownMenuItemProps) {
  return (
    <DropdownMenu.Item
      className={`block rounded outline-none data-highlighted:bg-chosen ${className}`}
      {...rest}
    />
  );
}

export function MenuSeparator() {
  return <DropdownMenu.Separator className="my-1 border-t border-linen2" />;
}
