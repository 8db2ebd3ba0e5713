// Rich text with prose and nothing else; the server cleans it again.
import { EditorContent, useEditor } from "@tiptap/react";
import StarterKit from "@tiptap/starter-kit";

type RichTextProps = {
  id: string;
  label: string;
  value: string;
  readOnly: boolean;
  onChange: (html: string) => void;
};

export function RichText({ id, label, value, readOnly, onChange }: RichTextProps) {
  const editor = useEditor({
    extensions: [
      StarterKit.configure({
        heading: { levels: [3, 4] },
        code: false,
        codeBlock: false,
        horizontalRule: false,
        strike: false,
        underline: false,
        link: { openOnClick: false, protocols: ["http", "https", "mailto", "tel"] },
      }),
    ],
    content: value,
    editable: !readOnly,
    onUpdate: ({ editor }) => onChange(editor.getHTML()),
    editorProps: {
      attributes: {
        id,
        role: "textbox",
        "aria-multiline": "true",
        "aria-label": label,
        class: "min-h-[96px]",
      },
    },
  });
  if (!editor) return null;
  const chain = () => editor.chain().focus();
  const tools: [string, boolean, () => void][] = [
    ["Bold", editor.isActive("bold"), () => chain().toggleBold().run()],
    ["Italic", editor.isActive("italic"), () => chain().toggleItalic().run()],
    ["List", editor.isActive("bulletList"), () => chain().toggleBulletList().run()],
  ];
  return (
    <div className="rounded-[4px] border border-line2 bg-white">
      {!readOnly && (
        <div
          role="toolbar"
          aria-label={`Form of ${label}`}
          className="flex gap-1 border-b border-linen2 px-1.5 py-1"
        >
          {tools.map(([name, on, run]) => (
            <button
              key={name}
              type="button"
              aria-pressed={on}
              onClick={run}
              className={`rounded px-2 py-[1px] text-xs ${on ? "bg-chosen font-semibold" : "hover:bg-linen"}`}
            >
              {name}
            </button>
          ))}
        </div>
      )}
      <EditorContent editor={editor} className="prose-edit px-2.5 py-1.5 text-sm" />
    </div>
  );
}
