// Rich text, in its form or as markup; the server cleans it to what the author may use.
import { EditorContent, useEditor } from "@tiptap/react";
import StarterKit from "@tiptap/starter-kit";
import { useEffect, useRef, useState } from "react";
import { INPUT } from "../shared/ui";
import { LinkTool } from "./LinkTool";

type RichTextProps = {
  id: string;
  label: string;
  value: string;
  readOnly: boolean;
  /** Whether it is typed where it stands: then the page undoes what is typed, and the bar hangs from its frame. */
  onPage?: boolean;
  onChange: (html: string) => void;
};

const FORM = ["p", "br", "strong", "em", "a", "ul", "ol", "li", "h3", "h4", "blockquote"];

/** Whether a text holds what the form would lose. */
function holdsMore(html: string): boolean {
  const all = new DOMParser().parseFromString(html, "text/html").body.querySelectorAll("*");
  return [...all].some((element) => !FORM.includes(element.localName) || element.hasAttribute("style"));
}

export function RichText(props: RichTextProps) {
  const [markup, show] = useState(() => holdsMore(props.value));
  if (!markup) return <Form {...props} onMarkup={() => show(true)} />;
  const more = holdsMore(props.value);
  return (
    <div>
      <textarea
        id={props.id}
        aria-label={props.label}
        rows={8}
        readOnly={props.readOnly}
        spellCheck={false}
        value={props.value}
        onChange={(event) => props.onChange(event.target.value)}
        className={`${INPUT} font-mono text-xs!`}
      />
      {more ? (
        <p className="text-xs text-ink2">This text holds more than its form can show.</p>
      ) : (
        <button type="button" className="text-xs underline" onClick={() => show(false)}>
          Edit in its form
        </button>
      )}
    </div>
  );
}

const toolLook = (on: boolean) =>
  `rounded px-2 py-[1px] text-xs ${on ? "bg-chosen font-semibold" : "hover:bg-linen"}`;

function Form({
  id,
  label,
  value,
  readOnly,
  onPage = false,
  onChange,
  onMarkup,
}: RichTextProps & { onMarkup: () => void }) {
  const said = useRef(value);
  const editor = useEditor({
    extensions: [
      StarterKit.configure({
        heading: { levels: [3, 4] },
        code: false,
        codeBlock: false,
        horizontalRule: false,
        strike: false,
        underline: false,
        undoRedo: onPage ? false : {},
        link: { openOnClick: false, protocols: ["http", "https", "mailto", "tel"] },
      }),
    ],
    content: value,
    editable: !readOnly,
    onUpdate: ({ editor }) => {
      said.current = editor.getHTML();
      onChange(said.current);
    },
    editorProps: {
      attributes: {
        id,
        role: "textbox",
        "aria-multiline": "true",
        "aria-label": label,
        class: onPage ? "" : "min-h-[96px]",
      },
    },
  });

  // What was undone, or cleaned when it was saved, is not what was typed here.
  useEffect(() => {
    if (!editor || value === said.current) return;
    said.current = value;
    editor.commands.setContent(value, { emitUpdate: false });
  }, [editor, value]);

  if (!editor) return null;
  const chain = () => editor.chain().focus();
  const tools: [string, boolean, () => void][] = [
    ["Bold", editor.isActive("bold"), () => chain().toggleBold().run()],
    ["Italic", editor.isActive("italic"), () => chain().toggleItalic().run()],
    ["List", editor.isActive("bulletList"), () => chain().toggleBulletList().run()],
  ];
  return (
    <div className={onPage ? "" : "rounded-[4px] border border-line2 bg-white"}>
      {!readOnly && (
        <div
          role="toolbar"
          aria-label={`Form of ${label}`}
          className={
            onPage
              ? "absolute -top-[27px] -right-px z-10 flex gap-0.5 rounded-t-[4px] border-2 border-b-0 border-rod bg-paper px-1 py-0.5"
              : "flex gap-1 border-b border-linen2 px-1.5 py-1"
          }
        >
          {tools.map(([name, on, run]) => (
            <button key={name} type="button" aria-pressed={on} onClick={run} className={toolLook(on)}>
              {name}
            </button>
          ))}
          <LinkTool editor={editor} className={toolLook(editor.isActive("link"))} />
          {!onPage && <span className="flex-1" />}
          <button type="button" onClick={onMarkup} className="rounded px-2 py-[1px] text-xs hover:bg-linen">
            Markup
          </button>
        </div>
      )}
      <EditorContent editor={editor} className={`prose-edit ${onPage ? "" : "px-2.5 py-1.5 text-sm"}`} />
    </div>
  );
}
