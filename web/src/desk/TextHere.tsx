// A line of text, typed where it stands on the page: no form, whatever is pasted.
import { EditorContent, Node, useEditor } from "@tiptap/react";
import { useEffect, useRef } from "react";

type TextProps = {
  label: string;
  /** What stands there while it is empty. */
  empty: string;
  value: string;
  onChange: (text: string) => void;
};

const Line = Node.create({ name: "doc", topNode: true, content: "text*" });

const Words = Node.create({ name: "text", group: "inline" });

const content = (text: string) => (text ? [{ type: "text", text }] : []);

export function TextHere({ label, empty, value, onChange }: TextProps) {
  const said = useRef(value);
  const editor = useEditor({
    extensions: [Line, Words],
    content: { type: "doc", content: content(value) },
    onUpdate: ({ editor }) => {
      said.current = editor.getText();
      onChange(said.current);
    },
    editorProps: {
      attributes: ({ doc }) => ({
        role: "textbox",
        "aria-label": label,
        "data-empty": doc.textContent === "" ? empty : "",
        class: "here outline-none",
      }),
      // It would begin another line, which there is none of.
      handleKeyDown: (_, event) => event.key === "Enter",
      handlePaste: (view, event) => {
        const text = event.clipboardData?.getData("text/plain").replace(/\s+/g, " ") ?? "";
        view.dispatch(view.state.tr.insertText(text));
        return true;
      },
    },
  });

  // What was undone is not what was typed here.
  useEffect(() => {
    if (!editor || value === said.current) return;
    said.current = value;
    editor.commands.setContent({ type: "doc", content: content(value) }, { emitUpdate: false });
  }, [editor, value]);

  return <EditorContent editor={editor} />;
}
