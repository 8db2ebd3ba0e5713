// A sentence that appears on hover or focus.
import { Tooltip } from "radix-ui";
import type { ReactNode } from "react";

export function Tip({ text, children }: { text: string; children: ReactNode }) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={4}
          className="z-50 max-w-[300px] rounded bg-rod px-2.5 py-1.5 text-xs text-white shadow-lg"
        >
          {text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}
