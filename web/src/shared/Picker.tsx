// One searchable picker for people, groups, roles, kinds, topics and pages; by mouse and by keyboard.
import { Command } from "cmdk";
import { Popover } from "radix-ui";
import { type ReactElement, useState } from "react";
import type { Cloth } from "../cloth/colours";
import { RoleCloth } from "../cloth/RoleCloth";
import { INPUT } from "./ui";

const MOST = 60;

export type Choice = { key: string; name: string; note?: string; cloth?: Cloth; head?: string };

type PickerProps = {
  /** What is picked, such as "role": names the field to search in. */
  what: string;
  choices: Choice[];
  onPick: (key: string) => void;
  value?: string;
  id?: string;
  describedBy?: string;
  /** Called with what is typed, where the server finds the choices. */
  onSearch?: (words: string) => void;
  /** Offers to choose nothing, under this name. */
  none?: string;
  looking?: boolean;
  /** What opens it, where that is not a field that shows the choice. */
  trigger?: ReactElement;
  /** The name of the choice, where it is not among the choices found. */
  chosenName?: string;
  disabled?: boolean;
};

export function Picker({ trigger, id, describedBy, disabled, ...props }: PickerProps) {
  const [open, setOpen] = useState(false);
  const chosen = props.choices.find(({ key }) => key === props.value);
  const name = chosen?.name ?? props.chosenName ?? (props.value ? props.value : props.none);
  return (
    <Popover.Root open={open} onOpenChange={setOpen} modal>
      <Popover.Trigger asChild>
        {trigger ?? (
          <button
            type="button"
            id={id}
            aria-labelledby={id && `${id}-label ${id}`}
            aria-describedby={describedBy}
            aria-haspopup="listbox"
            disabled={disabled}
            className={`${INPUT} flex items-center gap-2 text-left`}
          >
            {chosen?.cloth && <RoleCloth cloth={chosen.cloth} size={14} />}
            <span className={`min-w-0 flex-1 truncate ${name ? "" : "text-ink3"}`}>
              {name ?? `Choose a ${props.what}`}
            </span>
            <span aria-hidden="true" className="text-micro text-ink3">
              ▼
            </span>
          </button>
        )}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          aria-label={`Choose a ${props.what}`}
          className="z-[60] w-[320px] max-w-[92vw] overflow-hidden rounded-md border border-line bg-paper text-sm shadow-xl"
        >
          <Choices {...props} onGone={() => setOpen(false)} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

type ChoicesProps = Omit<PickerProps, "trigger"> & { onGone: () => void };

function Choices({ what, choices, onPick, onSearch, none, looking, onGone }: ChoicesProps) {
  const [words, setWords] = useState("");
  const found = onSearch ? choices : choices.filter((choice) => matches(choice, words));
  const shown = found.slice(0, MOST);

  function pick(key: string) {
    onGone();
    onPick(key);
  }

  return (
    <Command shouldFilter={false} label={`Choose a ${what}`}>
      <div className="border-b border-line p-2">
        <Command.Input
          value={words}
          onValueChange={(typed) => {
            setWords(typed);
            onSearch?.(typed);
          }}
          placeholder="Part of a name"
          className={INPUT}
        />
      </div>
      <Command.List label={`Every ${what}`} className="max-h-[300px] overflow-y-auto p-1">
        <Command.Empty className="px-2 py-2 text-ink2">
          {looking ? "Looking…" : `No ${what} is called that.`}
        </Command.Empty>
        {none && words === "" && (
          <Command.Item value="none-at-all" onSelect={() => pick("")} className={ROW}>
            {none}
          </Command.Item>
        )}
        {headed(shown).map(([head, group]) => (
          <Command.Group key={head} heading={head || undefined} className={GROUP}>
            {group.map((choice) => (
              <Command.Item
                key={choice.key}
                value={`key-${choice.key}`}
                onSelect={() => pick(choice.key)}
                className={ROW}
              >
                {choice.cloth && <RoleCloth cloth={choice.cloth} size={13} />}
                <span className="truncate">{choice.name}</span>
                {choice.note && (
                  <span className="ml-auto max-w-[150px] shrink-0 truncate text-xs text-ink2">
                    {choice.note}
                  </span>
                )}
              </Command.Item>
            ))}
          </Command.Group>
        ))}
        {found.length > MOST && (
          <p className="px-2 py-1 text-xs text-ink2">{found.length - MOST} more: type part of a name.</p>
        )}
      </Command.List>
    </Command>
  );
}

const ROW = "flex items-center gap-2 rounded px-2 py-1 data-[selected=true]:bg-chosen";
const GROUP =
  "[&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pt-1.5 [&_[cmdk-group-heading]]:text-xs [&_[cmdk-group-heading]]:text-ink2";

/** Whether a choice has all the words in its name, its note or what it stands under. */
export function matches({ name, note, head }: Choice, words: string): boolean {
  const low = `${name} ${note ?? ""} ${head ?? ""}`.toLowerCase();
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => low.includes(word));
}

/** Choices beneath their heads, in the order in which heads come first. */
export function headed(choices: Choice[]): [string, Choice[]][] {
  const groups = new Map<string, Choice[]>();
  for (const choice of choices) {
    const head = choice.head ?? "";
    groups.set(head, [...(groups.get(head) ?? []), choice]);
  }
  return [...groups];
}
