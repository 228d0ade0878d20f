import { Menu, TextInput } from "@mantine/core";
import { RichTextEditor } from "@mantine/tiptap";
import "@mantine/tiptap/styles.css";
import { type Editor as Tiptap, useEditor, useEditorState } from "@tiptap/react";
import "katex/dist/katex.min.css";
import "@fontsource/tinos/latin-400.css";
import "@fontsource/tinos/latin-400-italic.css";
import "@fontsource/tinos/latin-700.css";
import "@fontsource/arimo/latin-400.css";
import "@fontsource/arimo/latin-700.css";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import type { Chosen } from "../work";
import { extensions } from "./extensions";
import { inlined, keepsAll, numbered } from "./notes";
import { pictures, referred, shownFrom } from "./pictures";
import styles from "./Editor.module.css";

type Props = {
  text: string; // Markdown
  change: (text: string) => void;
  files: Chosen[]; // of the bundle; pictures among them can be put in
  page?: Schemas["Typed"]["page"]; // how it will be set
  heading: boolean;
};

/** A text as it will be set, written with Markdown's marks or by the buttons; what is kept is Markdown. */
export default function Editor({ text, change, files, page, heading }: Props) {
  const told = useRef(text); // what it was last given, or gave
  const wrote = useRef<string>(undefined); // what it gave last, of which it loses nothing
  const shown = useMemo(() => shownFrom(files), [files]);
  const now = useRef(shown);
  now.current = shown;
  const list = useMemo(() => extensions((name) => now.current(name)), []);
  const editor = useEditor({
    extensions: list,
    content: inlined(text),
    contentType: "markdown",
    editorProps: { attributes: { "aria-label": "Your answer", spellcheck: "true" } },
    onUpdate: ({ editor: e }) => {
      wrote.current = told.current = numbered(e.getMarkdown());
      change(told.current);
    },
  });
  useEffect(() => {
    if (text === told.current) return; // it was changed elsewhere: as source, or in another tab
    told.current = text;
    editor.commands.setContent(inlined(text), { contentType: "markdown", emitUpdate: false });
  }, [text, editor]);
  // What the editor would lose of it is written as source only.
  const keeps = useMemo(() => {
    if (text === wrote.current) return true;
    const parsed = editor.markdown!.parse(inlined(text));
    return keepsAll(text, numbered(editor.markdown!.serialize(parsed)));
  }, [text, editor]);
  const [wished, setWished] = useState(false);
  const asSource = wished || !keeps;
  return (
    <RichTextEditor
      editor={editor}
      classNames={parts}
      className={styles.editor}
      labels={{ h1ControlLabel: "Heading", h2ControlLabel: "Smaller heading" }}
    >
      <RichTextEditor.Toolbar>
        {!asSource && <Buttons editor={editor} files={files} />}
        <RichTextEditor.ControlsGroup className={styles.last}>
          <RichTextEditor.Control
            aria-pressed={asSource}
            active={asSource}
            disabled={!keeps}
            title={keeps ? undefined : "Some of this can be written as Markdown only"}
            onClick={() => setWished(!wished)}
          >
            Markdown
          </RichTextEditor.Control>
        </RichTextEditor.ControlsGroup>
      </RichTextEditor.Toolbar>
      {asSource ? (
        <textarea
          className={styles.source}
          aria-label="Your answer, in Markdown"
          value={text}
          onChange={(e) => change(e.target.value)}
        />
      ) : (
        <>
          <Detail editor={editor} />
          <div
            className={styles.paper}
            style={
              page && {
                fontFamily: `"${page.font}", ${fallback(page.font)}`,
                fontSize: `${page.size}pt`,
                lineHeight: page.spacing * 1.15,
              }
            }
          >
            {heading && page?.title && (
              <div className={styles.heading}>
                <p>{page.title}</p>
                <span>{page.course}</span>
                <span>{page.author}</span>
              </div>
            )}
            <RichTextEditor.Content />
            <Notes editor={editor} />
          </div>
        </>
      )}
    </RichTextEditor>
  );
}

const parts = {
  root: styles.root!,
  toolbar: styles.toolbar!,
  control: styles.control!,
  content: styles.content!,
};

/** The shipped letters that are as wide as those of a font that is asked for. */
const fallback = (font: string) =>
  /arial|helvetica|sans|calibri|verdana/i.test(font) ? "Arimo, sans-serif" : "Tinos, serif";

function Buttons({ editor, files }: { editor: Tiptap; files: Chosen[] }) {
  const { Control } = RichTextEditor;
  const inTable = useEditorState({ editor, selector: (s) => s.editor.isActive("table") });
  const does = () => editor.chain().focus();
  return (
    <>
      <RichTextEditor.ControlsGroup>
        <RichTextEditor.H1 icon={() => <>Heading</>} />
        <RichTextEditor.H2 icon={() => <>Smaller</>} />
      </RichTextEditor.ControlsGroup>
      <RichTextEditor.ControlsGroup>
        <RichTextEditor.Bold icon={() => <b>Bold</b>} />
        <RichTextEditor.Italic icon={() => <i>Italic</i>} />
        <RichTextEditor.Code icon={() => <code>Code</code>} />
        <RichTextEditor.Link />
      </RichTextEditor.ControlsGroup>
      <RichTextEditor.ControlsGroup>
        <RichTextEditor.BulletList />
        <RichTextEditor.OrderedList />
        <RichTextEditor.Blockquote />
      </RichTextEditor.ControlsGroup>
      <RichTextEditor.ControlsGroup>
        <Control
          onClick={() =>
            does()
              .insertContent({ type: "inlineMath", attrs: { latex: "x" } })
              .setNodeSelection(editor.state.selection.from)
              .run()
          }
        >
          Formula
        </Control>
        <Control
          onClick={() =>
            does()
              .insertContent({ type: "footnote", attrs: { text: "" } })
              .setNodeSelection(editor.state.selection.from)
              .run()
          }
        >
          Footnote
        </Control>
        <Control
          onClick={() => does().insertTable({ rows: 3, cols: 3, withHeaderRow: true }).run()}
        >
          Table
        </Control>
        <PictureChoice
          files={files}
          put={(f) =>
            does()
              .setImage({ src: referred(f), alt: f.name.replace(/\.[^.]*$/, "") })
              .setNodeSelection(editor.state.selection.from)
              .run()
          }
        />
      </RichTextEditor.ControlsGroup>
      {inTable && (
        <RichTextEditor.ControlsGroup>
          <Control onClick={() => does().addRowAfter().run()}>+ row</Control>
          <Control onClick={() => does().addColumnAfter().run()}>+ column</Control>
          <Control onClick={() => does().deleteRow().run()}>− row</Control>
          <Control onClick={() => does().deleteColumn().run()}>− column</Control>
          <Control onClick={() => does().deleteTable().run()}>− table</Control>
        </RichTextEditor.ControlsGroup>
      )}
    </>
  );
}

/** Puts a picture of the bundle where one writes. */
function PictureChoice({ files, put }: { files: Chosen[]; put: (f: Chosen) => void }) {
  const list = pictures(files);
  return (
    <Menu position="bottom-start" returnFocus={false} transitionProps={{ duration: 0 }}>
      <Menu.Target>
        <RichTextEditor.Control
          disabled={list.length === 0}
          title={
            list.length === 0 ? "There is no picture in the bundle; drop one above" : undefined
          }
        >
          Picture
        </RichTextEditor.Control>
      </Menu.Target>
      <Menu.Dropdown>
        {list.map((f) => (
          <Menu.Item key={f.version} className="mono" onClick={() => put(f)}>
            {f.name}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}

const details: Record<string, { attr: string; label: string }> = {
  inlineMath: { attr: "latex", label: "Formula, in TeX" },
  blockMath: { attr: "latex", label: "Formula, in TeX" },
  footnote: { attr: "text", label: "Words of the footnote" },
  image: { attr: "alt", label: "What the picture shows" },
};

/** What stands behind the formula, the footnote or the picture that is chosen. */
function Detail({ editor }: { editor: Tiptap }) {
  const chosen = useEditorState({
    editor,
    selector: ({ editor: e }) => {
      const { selection } = e.state;
      const node =
        "node" in selection
          ? (selection.node as { type: { name: string }; attrs: Record<string, string> })
          : null;
      const detail = node && details[node.type.name];
      return detail
        ? {
            ...detail,
            at: selection.from,
            value: node.attrs[detail.attr] ?? "",
            type: node.type.name,
          }
        : null;
    },
  });
  const field = useRef<HTMLInputElement>(null);
  const key = chosen ? `${chosen.type} ${chosen.at}` : "";
  useEffect(() => {
    if (key) field.current?.select();
  }, [key]);
  if (!chosen) return null;
  const change = (value: string) =>
    editor
      .chain()
      .command(({ tr }) => {
        tr.setNodeAttribute(chosen.at, chosen.attr, value);
        return true;
      })
      .setNodeSelection(chosen.at)
      .run();
  return (
    <div className={styles.detail}>
      <TextInput
        ref={field}
        label={chosen.label}
        value={chosen.value}
        onChange={(e) => change(e.target.value)}
        onKeyDown={(e) => {
          if (e.key !== "Enter" && e.key !== "Escape") return;
          e.preventDefault();
          editor
            .chain()
            .focus(chosen.at + 1)
            .run();
        }}
      />
    </div>
  );
}

/** The words of the footnotes, under the text. */
function Notes({ editor }: { editor: Tiptap }) {
  const list = useEditorState({
    editor,
    selector: ({ editor: e }) => {
      const found: string[] = [];
      e.state.doc.descendants((node) => {
        if (node.type.name === "footnote") found.push(String(node.attrs.text));
      });
      return found.join("\n");
    },
  });
  if (list === "") return null;
  return (
    <ol className={styles.notes}>
      {list.split("\n").map((text, n) => (
        <li key={n}>{text}</li>
      ))}
    </ol>
  );
}
