<script lang="ts">
  import { defaultKeymap, history, historyKeymap, indentWithTab } from "@codemirror/commands";
  import { css } from "@codemirror/lang-css";
  import { html } from "@codemirror/lang-html";
  import { defaultHighlightStyle, HighlightStyle, syntaxHighlighting } from "@codemirror/language";
  import { EditorState, StateEffect, StateField } from "@codemirror/state";
  import {
    Decoration,
    drawSelection,
    EditorView,
    keymap,
    lineNumbers,
    type DecorationSet,
  } from "@codemirror/view";
  import { tags } from "@lezer/highlight";
  import { untrack } from "svelte";
  import type { Part } from "../api/client";
  import { bytes } from "../format";
  import { codeMutation, sourceQuery } from "../queries";

  let {
    build,
    project,
    chosen,
    online,
  }: {
    build: string;
    project: string;
    chosen?: Part; // its lines are marked
    online?: (line: number) => void; // a line of index.html was clicked
  } = $props();
  const source = sourceQuery(() => build);
  const keep = codeMutation(() => project);
  let file = $state<"index.html" | "styles.css">("index.html");
  const text = $derived(file === "index.html" ? source.data?.html : source.data?.css);
  let copied = $state(false);
  let draft = $state<string>(); // the file as it is being changed
  const changed = $derived(draft !== undefined && draft !== text);
  let view: EditorView | undefined;

  const colours = HighlightStyle.define([
    { tag: [tags.tagName, tags.className], color: "var(--color-firn)", fontWeight: "600" },
    { tag: [tags.attributeName, tags.propertyName], color: "var(--color-ink)" },
    { tag: [tags.attributeValue, tags.string, tags.number, tags.unit], color: "var(--color-ash)" },
    { tag: tags.comment, color: "var(--color-ash)", fontStyle: "italic" },
  ]);

  // the chosen part's lines, marked like a passage in a margin
  const mark = StateEffect.define<[number, number] | undefined>();
  const marked = StateField.define<DecorationSet>({
    create: () => Decoration.none,
    update(now, change) {
      let out = now.map(change.changes);
      for (const e of change.effects)
        if (e.is(mark)) {
          const [from, to] = e.value ?? [1, 0];
          const lines = [];
          for (let i = from; i <= Math.min(to, change.state.doc.lines); i++)
            lines.push(Decoration.line({ class: "cm-passage" }).range(change.state.doc.line(i).from));
          out = Decoration.set(lines);
        }
      return out;
    },
    provide: (f) => EditorView.decorations.from(f),
  });

  /** Lines of the rules for the chosen part's first own class, in the CSS. */
  function passage(content: string): [number, number] | undefined {
    if (!chosen) return undefined;
    if (file === "index.html") return chosen.lines;
    const lines = content.split("\n");
    for (const c of [...chosen.classes].reverse()) {
      const at = lines.findIndex((l) => l.startsWith(`.${c} `) || l.startsWith(`.${c},`));
      if (at >= 0) return [at + 1, lines.findIndex((l, i) => i >= at && l.startsWith("}")) + 1];
    }
    return undefined;
  }

  function show() {
    if (!view) return;
    const place = passage(view.state.doc.toString());
    const line = place && place[0] <= view.state.doc.lines ? view.state.doc.line(place[0]).from : undefined;
    const effects: StateEffect<unknown>[] = [mark.of(place)];
    if (line !== undefined) effects.push(EditorView.scrollIntoView(line, { y: "center" }));
    view.dispatch({ effects });
  }
  $effect(() => {
    void chosen;
    show();
  });

  function editor(content: string, name: typeof file) {
    return (node: HTMLElement) => {
      view = new EditorView({
        parent: node,
        state: EditorState.create({
          doc: content,
          extensions: [
            lineNumbers(),
            drawSelection(),
            history(),
            keymap.of([
              { key: "Mod-s", run: () => (send(), true) },
              ...historyKeymap,
              ...defaultKeymap,
              indentWithTab,
            ]),
            marked,
            EditorView.lineWrapping,
            EditorView.contentAttributes.of({ "aria-label": name }),
            EditorView.updateListener.of((u) => {
              if (u.docChanged) draft = u.state.doc.toString();
            }),
            EditorView.domEventHandlers({
              click: (_, v) => {
                if (name === "index.html" && !changed)
                  online?.(v.state.doc.lineAt(v.state.selection.main.head).number);
              },
            }),
            name === "index.html" ? html() : css(),
            syntaxHighlighting(colours),
            syntaxHighlighting(defaultHighlightStyle, { fallback: true }),
            EditorView.theme({
              "&": { height: "100%", backgroundColor: "var(--color-paper)", color: "var(--color-ink)" },
              ".cm-scroller": { fontFamily: "var(--font-mono)", fontSize: "0.8125rem", lineHeight: "1.55" },
              ".cm-gutters": {
                backgroundColor: "var(--color-paper)",
                color: "var(--color-ash)",
                border: "none",
              },
              ".cm-content": { caretColor: "var(--color-ink)" },
              ".cm-passage": {
                backgroundColor: "color-mix(in srgb, var(--color-firn) 14%, transparent)",
                boxShadow: "inset 3px 0 var(--color-firn)",
              },
            }),
          ],
        }),
      });
      untrack(show); // what is chosen later is marked without a new editor
      return () => {
        view?.destroy();
        view = undefined;
      };
    };
  }

  function send() {
    if (changed && draft !== undefined) keep.mutate({ name: file, content: draft });
  }

  function turn(to: typeof file) {
    file = to;
    draft = undefined;
  }
  $effect(() => {
    void text;
    draft = undefined; // a new page: what was kept is in it
  });

  async function copy() {
    await navigator.clipboard.writeText(draft ?? text ?? "");
    copied = true;
    setTimeout(() => (copied = false), 1500);
  }
</script>

<div class="flex items-center gap-1 px-4 py-1.5 text-sm text-ash">
  {#each ["index.html", "styles.css"] as const as name (name)}
    <button
      class={["px-2", file === name ? "font-semibold text-ink underline" : "hover:text-ink"]}
      aria-pressed={file === name}
      disabled={changed && file !== name}
      title={changed && file !== name ? "Keep or drop what you changed first" : undefined}
      onclick={() => turn(name)}
    >
      {name}
    </button>
  {/each}
  <button class="ml-2 px-2 hover:text-ink" onclick={copy}>{copied ? "Copied" : "Copy"}</button>
  {#if changed}
    <button
      class="ml-2 bg-ink px-3 py-0.5 font-semibold text-paper hover:bg-firn"
      disabled={keep.isPending}
      title="Each changed place becomes a pin. Ctrl S"
      onclick={send}>Keep my changes</button
    >
    <button
      class="px-2 underline hover:text-ink"
      onclick={() => {
        view?.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text ?? "" } });
        draft = undefined;
        show();
      }}>Drop them</button
    >
  {/if}
  {#if keep.isError}<span role="alert" class="text-signal">{keep.error.message}</span>{/if}
  {#if source.data}
    <span class="ml-auto"
      >{source.data.files.length} files, {bytes(source.data.files.reduce((n, f) => n + f.bytes, 0))} in all</span
    >
  {/if}
</div>
<div class="min-h-0 flex-1 overflow-hidden px-4 pb-4">
  {#if source.isPending}
    <p role="status" class="text-ash">Fetching the code…</p>
  {:else if source.isError}
    <p role="alert" class="text-signal">{source.error.message}</p>
  {:else}
    {#key text}
      <div class="h-full" {@attach editor(text ?? "", file)}></div>
    {/key}
  {/if}
</div>
