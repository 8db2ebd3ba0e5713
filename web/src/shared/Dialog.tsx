// A dialog with a title, what it says, and its buttons at the end.
import { Dialog as Radix } from "radix-ui";
import { type ReactNode, useRef } from "react";

type DialogProps = {
  open: boolean;
  onClose: () => void;
  title: string;
  children: ReactNode;
  size?: "small" | "wide" | "large";
};

const WIDTHS = { small: "w-[460px]", wide: "w-[720px]", large: "w-[940px]" };

/** The focus goes into the dialog when it opens, and back to where it was when it closes. */
export function Dialog({ open, onClose, title, children, size = "small" }: DialogProps) {
  const before = useRef<HTMLElement | null>(null);
  return (
    <Radix.Root open={open} onOpenChange={(now) => !now && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-rod/45" />
        <Radix.Content
          aria-describedby={undefined}
          onOpenAutoFocus={() => {
            before.current = document.activeElement as HTMLElement | null;
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            before.current?.focus();
          }}
          className={`fixed top-1/2 left-1/2 z-50 max-h-[88vh] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-lg border-t-[3px] border-brass bg-paper p-5 shadow-2xl outline-none ${WIDTHS[size]} max-w-[94vw]`}
        >
          <Radix.Title className="mb-3 pr-7 text-lg font-bold">{title}</Radix.Title>
          {children}
          <Radix.Close
            aria-label="Leave without doing anything"
            className="absolute top-3 right-3 size-[26px] rounded text-lead text-ink2 hover:bg-linen2"
          >
            ×
          </Radix.Close>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}

export function DialogButtons({ children }: { children: ReactNode }) {
  return <div className="mt-4 flex justify-end gap-2">{children}</div>;
}
