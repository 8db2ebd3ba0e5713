// The editor of sentences: how each line stands beside it, names in colour, what could stand where it makes no sense.
import {
  autocompletion,
  type Completion,
  type CompletionContext,
  completionKeymap,
} from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { EditorState, type Extension, RangeSetBuilder, StateEffect } from "@codemirror/state";
import {
  Decoration,
  type DecorationSet,
  EditorView,
  GutterMarker,
  gutter,
  keymap,
  lineNumbers,
  ViewPlugin,
  type ViewUpdate,
  WidgetType,
} from "@codemirror/view";
import { WHO } from "../Sentence";
import { ask, endOf, type Lines, namesIn, noteIn } from "./lines";

const SOON = 250;

/** Told to an editor once more is known of its lines. */
export const learnt = StateEffect.define<null>();

type Told = { lines: Lines; reason: (key: string) => string; onError: (error: unknown) => void };

export function sentencesEditor(told: Told, onChange: (text: string) => void): Extension {
  return [
    history(),
    lineNumbers(),
    rings(told),
    drawn(told),
    autocompletion({ override: [completions], icons: false }),
    keymap.of([...completionKeymap, ...defaultKeymap, ...historyKeymap]),
    EditorView.lineWrapping,
    EditorView.contentAttributes.of({ "aria-label": "Expectations as sentences", spellcheck: "false" }),
    EditorView.updateListener.of((update) => {
      if (update.docChanged) onChange(update.state.doc.toString());
    }),
    EditorState.tabSize.of(4),
    looks,
  ];
}

class Ring extends GutterMarker {
  constructor(readonly state: "holds" | "breaks" | "unknown") {
    super();
  }
  eq(other: Ring) {
    return other.state === this.state;
  }
  toDOM() {
    const ring = document.createElement("span");
    ring.className = `cm-ring cm-ring-${this.state}`;
    ring.title = this.state === "unknown" ? "" : this.state;
    return ring;
  }
}

const HOLDS = new Ring("holds");
const BREAKS = new Ring("breaks");
const UNKNOWN = new Ring("unknown");

function rings({ lines }: Told) {
  return gutter({
    class: "cm-rings",
    lineMarker(view, block) {
      const said = lines.of(view.state.doc.lineAt(block.from).text);
      if (!said || said.kind === "nothing" || said.kind === "heading") return null;
      if (said.kind === "unclear" || said.so === null) return UNKNOWN;
      return said.so ? HOLDS : BREAKS;
    },
    lineMarkerChange: (update) => update.docChanged || hasLearnt(update),
  });
}

class End extends WidgetType {
  constructor(
    readonly text: string,
    readonly wrong: boolean,
  ) {
    super();
  }
  eq(other: End) {
    return other.text === this.text && other.wrong === this.wrong;
  }
  toDOM() {
    const end = document.createElement("span");
    end.className = this.wrong ? "cm-end cm-end-wrong" : "cm-end";
    end.textContent = this.text;
    return end;
  }
}

const WHOM = Decoration.mark({ class: "cm-who" });
const WHERE = Decoration.mark({ class: "cm-where" });
const UNCLEAR = Decoration.mark({ class: "cm-unclear" });
const NOTE = Decoration.mark({ class: "cm-note" });
const HEADING = Decoration.line({ class: "cm-heading" });
const BROKEN = Decoration.line({ class: "cm-broken" });
const ASKED_ABOUT = Decoration.line({ class: "cm-asked-about" });

function drawn({ lines, reason, onError }: Told) {
  return ViewPlugin.fromClass(
    class {
      decorations: DecorationSet;
      private waiting = 0;

      constructor(private readonly view: EditorView) {
        this.decorations = this.draw();
        this.learnSoon(0);
      }

      update(update: ViewUpdate) {
        if (update.docChanged || update.viewportChanged || hasLearnt(update)) this.decorations = this.draw();
        if (update.docChanged || update.viewportChanged) this.learnSoon(SOON);
      }

      destroy() {
        clearTimeout(this.waiting);
      }

      private learnSoon(wait: number) {
        clearTimeout(this.waiting);
        this.waiting = window.setTimeout(() => {
          lines.learn(inView(this.view).map(({ text }) => text)).then((some) => {
            if (some) this.view.dispatch({ effects: learnt.of(null) });
          }, onError);
        }, wait);
      }

      private draw(): DecorationSet {
        const builder = new RangeSetBuilder<Decoration>();
        for (const { from, to, text } of inView(this.view)) {
          const said = lines.of(text);
          if (!said) continue;
          if (said.kind === "heading") builder.add(from, from, HEADING);
          if (said.kind === "expectation" && said.so === false) builder.add(from, from, BROKEN);
          if (said.kind === "unclear") {
            builder.add(from, from, ASKED_ABOUT);
            const at = from + (said.at ?? 0);
            if (said.length) builder.add(at, Math.min(at + said.length, to), UNCLEAR);
          }
          for (const name of namesIn(text, said)) {
            builder.add(from + name.from, from + name.to, WHO.includes(name.sort) ? WHOM : WHERE);
          }
          const note = said.kind === "unclear" ? -1 : noteIn(text, said);
          if (note >= 0) builder.add(from + note, to, NOTE);
          const end = endOf(said, reason);
          const wrong = said.kind === "expectation" && said.so === false;
          if (end) builder.add(to, to, Decoration.widget({ widget: new End(end, wrong), side: 1 }));
        }
        return builder.finish();
      }
    },
    { decorations: (plugin) => plugin.decorations },
  );
}

function inView(view: EditorView) {
  const { doc } = view.state;
  const first = doc.lineAt(view.viewport.from).number;
  const last = doc.lineAt(view.viewport.to).number;
  return Array.from({ length: last - first + 1 }, (_, at) => doc.line(first + at));
}

function hasLearnt(update: ViewUpdate): boolean {
  return update.transactions.some((transaction) => transaction.effects.some((effect) => effect.is(learnt)));
}

/** What could stand where the line, as far as it is typed, stops making sense. */
async function completions(context: CompletionContext) {
  const line = context.state.doc.lineAt(context.pos);
  const typed = line.text.slice(0, context.pos - line.from);
  if (!context.explicit && typed.trim().length < 2) return null;
  if (typed.trimStart().startsWith("#")) return null;
  const [said] = await ask([typed]).catch(() => []);
  if (!said || said.offers.length === 0 || context.aborted) return null;
  const from = Math.min(...said.offers.map((offer) => offer.at));
  const options: Completion[] = said.offers.map((offer) => ({
    label: offer.text,
    detail: offer.what,
    apply: (view: EditorView, _: Completion, __: number, to: number) => {
      const at = line.from + offer.at;
      const space = offer.at > 0 && /\S/.test(view.state.sliceDoc(at - 1, at)) ? " " : "";
      const insert = `${space}${offer.text} `;
      view.dispatch({ changes: { from: at, to, insert }, selection: { anchor: at + insert.length } });
    },
  }));
  return { from: line.from + from, options, filter: false };
}

const looks = EditorView.theme({
  "&": { fontSize: "14.5px", backgroundColor: "#fffdf9" },
  "&.cm-focused": { outline: "none" },
  ".cm-scroller": { fontFamily: "inherit", lineHeight: "33px" },
  ".cm-content": { padding: "8px 0", caretColor: "#221c2b" },
  ".cm-line": { padding: "0 14px 0 6px" },
  ".cm-gutters": { backgroundColor: "#fffdf9", border: "none", color: "#6f6879" },
  ".cm-lineNumbers": { minWidth: "38px", fontFamily: "ui-monospace, monospace", fontSize: "12px" },
  ".cm-rings": { width: "30px" },
  ".cm-rings .cm-gutterElement": { display: "flex", justifyContent: "center", paddingTop: "9px" },
  ".cm-ring": { width: "14px", height: "14px", borderRadius: "50%", border: "2.6px solid #2a2038" },
  ".cm-ring-breaks": { borderColor: "#7a1f2b", borderStyle: "dashed" },
  ".cm-ring-unknown": { borderColor: "#cfc8bb" },
  ".cm-who": { color: "#2a63a8", fontWeight: "600" },
  ".cm-where": { color: "#1f6f5c", fontWeight: "600" },
  ".cm-unclear": { textDecoration: "underline wavy #7a1f2b" },
  ".cm-note": { color: "#5c5566" },
  ".cm-heading": { fontWeight: "600" },
  ".cm-broken": { backgroundColor: "#fbf1ef" },
  ".cm-asked-about": { backgroundColor: "#fdf3df" },
  ".cm-end": { float: "right", marginLeft: "16px", fontSize: "12px", color: "#5c5566" },
  ".cm-end-wrong": { color: "#7a1f2b" },
  ".cm-tooltip.cm-tooltip-autocomplete": {
    border: "1px solid #c39134",
    borderRadius: "6px",
    backgroundColor: "#fffdf9",
  },
  ".cm-tooltip-autocomplete > ul": { fontFamily: "inherit !important", maxHeight: "260px" },
  ".cm-tooltip-autocomplete > ul > li": { padding: "5px 14px !important", color: "#221c2b" },
  ".cm-tooltip-autocomplete > ul > li[aria-selected]": {
    background: "#efe9dc !important",
    color: "#221c2b !important",
  },
  ".cm-completionDetail": { fontStyle: "normal !important", color: "#5c5566", fontSize: "12px" },
});
