import { InputRule, mergeAttributes, Node } from "@tiptap/core";
import Image from "@tiptap/extension-image";
import { BlockMath, InlineMath } from "@tiptap/extension-mathematics";
import { Table, TableCell, TableHeader, TableRow } from "@tiptap/extension-table";
import { Markdown } from "@tiptap/markdown";
import { Link } from "@mantine/tiptap";
import StarterKit from "@tiptap/starter-kit";
import { closes, noted, opens } from "./notes";

const katexOptions = { throwOnError: false, strict: false, trust: false, maxExpand: 200 };

/** A formula in a line: between dollars that touch it, the last before no figure, so that prices stay prices. */
const formula = /^\$(?=\S)((?:\\.|[^$\\\n])*?\S)\$(?!\d)/;

const Formula = InlineMath.extend({
  addInputRules() {
    return [
      new InputRule({
        find: /(?:^|[^\\$\w])(\$(?=[^\s\d])([^$\n]*\S)\$)$/,
        handler: ({ state, range, match }) => {
          const from = range.to - match[1]!.length + 1; // the last dollar is not there yet
          state.tr.replaceWith(from, range.to, this.type.create({ latex: match[2] }));
        },
      }),
    ];
  },
  markdownTokenizer: {
    name: "inlineMath",
    level: "inline",
    start: (text: string) => text.indexOf("$"),
    tokenize: (text: string) => {
      const found = formula.exec(text);
      return found ? { type: "inlineMath", raw: found[0], latex: found[1] } : undefined;
    },
  },
});

/** A footnote, which stands where it is called; its words are under the page. */
const Footnote = Node.create({
  name: "footnote",
  group: "inline",
  inline: true,
  atom: true,
  addAttributes: () => ({ text: { default: "" } }),
  parseHTML: () => [{ tag: "sup[data-note]" }],
  renderHTML: ({ node, HTMLAttributes }) => [
    "sup",
    mergeAttributes(HTMLAttributes, {
      "data-note": "",
      role: "note",
      "aria-label": String(node.attrs.text) || "a footnote without words",
    }),
  ],
  parseMarkdown: (token: { text?: string }) => ({
    type: "footnote",
    attrs: { text: token.text ?? "" },
  }),
  renderMarkdown: (node) => noted(String(node.attrs?.text ?? "")),
  markdownTokenizer: {
    name: "footnote",
    level: "inline",
    start: (text: string) => text.indexOf(opens),
    tokenize: (text: string) => {
      const end = text.indexOf(closes);
      if (!text.startsWith(opens) || end < 0) return undefined;
      return {
        type: "footnote",
        raw: text.slice(0, end + 1),
        text: decodeURIComponent(text.slice(1, end)),
      };
    },
  },
});

/** All that an answer can hold. shown is the address of a picture that the text refers to by its name. */
export const extensions = (shown: (name: string) => string) => [
  StarterKit.configure({ underline: false, link: false, heading: { levels: [1, 2, 3, 4, 5, 6] } }),
  Link.configure({ openOnClick: false }),
  Table.configure({ resizable: false }),
  TableRow,
  TableHeader,
  TableCell,
  Image.extend({
    renderHTML: ({ HTMLAttributes }) => [
      "img",
      { ...HTMLAttributes, src: shown(String(HTMLAttributes.src ?? "")) },
    ],
  }).configure({ inline: true }),
  Formula.configure({ katexOptions }),
  BlockMath.configure({ katexOptions: { ...katexOptions, displayMode: true } }),
  Footnote,
  Markdown,
];
