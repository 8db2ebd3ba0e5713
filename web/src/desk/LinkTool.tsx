// Making what is marked in a text a link, leading one elsewhere, or taking it away.
import type { Editor } from "@tiptap/react";
import { Popover } from "radix-ui";
import { type FormEvent, useState } from "react";
import { Button, INPUT, Labelled } from "../shared/ui";

const ALLOWED = /^(https?:\/\/|mailto:|tel:|\/|#)/i;

type ToolProps = { editor: Editor; className: string };

export function LinkTool({ editor, className }: ToolProps) {
  const [open, setOpen] = useState(false);
  const [to, setTo] = useState("");
  const [wrong, setWrong] = useState(false);
  const on = editor.isActive("link");
  const link = () => editor.chain().extendMarkRange("link");

  function turn(now: boolean) {
    if (now) setTo(String(editor.getAttributes("link").href ?? ""));
    setWrong(false);
    setOpen(now);
  }

  function put(event: FormEvent) {
    event.preventDefault();
    event.stopPropagation();
    const href = to.trim();
    if (!ALLOWED.test(href)) return setWrong(true);
    if (editor.state.selection.empty && !on)
      link()
        .insertContent({ type: "text", text: href, marks: [{ type: "link", attrs: { href } }] })
        .run();
    else link().setLink({ href }).run();
    setOpen(false);
  }

  return (
    <Popover.Root open={open} onOpenChange={turn}>
      <Popover.Trigger aria-pressed={on} className={className}>
        Link
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          aria-label="Link"
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            editor.commands.focus();
          }}
          className="z-50 w-[300px] rounded-md border border-line bg-paper p-3 text-sm shadow-xl"
        >
          <form onSubmit={put}>
            <Labelled
              label="Leads to"
              hint="An address that begins with https:, mailto:, tel: or /."
              error={wrong ? "A link begins with https:, mailto:, tel: or /." : undefined}
            >
              {(id, by) => (
                <input
                  id={id}
                  aria-describedby={by}
                  value={to}
                  onChange={(event) => {
                    setTo(event.target.value);
                    setWrong(false);
                  }}
                  className={INPUT}
                />
              )}
            </Labelled>
            <span className="flex justify-end gap-2">
              {on && (
                <Button
                  onClick={() => {
                    link().unsetLink().run();
                    setOpen(false);
                  }}
                >
                  No link
                </Button>
              )}
              <Button type="submit" look="main" disabled={to.trim() === ""}>
                Link it
              </Button>
            </span>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
