<script lang="ts">
  import { css } from "@codemirror/lang-css";
  import { html } from "@codemirror/lang-html";
  import { defaultHighlightStyle, HighlightStyle, syntaxHighlighting } from "@codemirror/language";
  import { EditorState } from "@codemirror/state";
  import { drawSelection, EditorView, lineNumbers } from "@codemirror/view";
  import { tags } from "@lezer/highlight";
  import { bytes } from "../format";
  import { sourceQuery } from "../queries";

  let { build }: { build: string } = $props();
  const source = sourceQuery(() => build);
  let file = $state<"html" | "css">("html");
  const text = $derived(file === "html" ? source.data?.html : source.data?.css);
  let copied = $state(false);

  const colours = HighlightStyle.define([
    { tag: [tags.tagName, tags.className], color: "var(--color-firn)", fontWeight: "600" },
    { tag: [tags.attributeName, tags.propertyName], color: "var(--color-ink)" },
    { tag: [tags.attributeValue, tags.string, tags.number, tags.unit], color: "var(--color-ash)" },
    { tag: tags.comment, color: "var(--color-ash)", fontStyle: "italic" },
  ]);

  function editor(content: string, language: "html" | "css") {
    return (node: HTMLElement) => {
      const view = new EditorView({
        parent: node,
        state: EditorState.create({
          doc: content,
          extensions: [
            lineNumbers(),
            drawSelection(),
            EditorState.readOnly.of(true),
            EditorView.lineWrapping,
            EditorView.contentAttributes.of({
              "aria-label": language === "html" ? "index.html" : "styles.css",
            }),
            language === "html" ? html() : css(),
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
            }),
          ],
        }),
      });
      return () => view.destroy();
    };
  }

  async function copy() {
    await navigator.clipboard.writeText(text ?? "");
    copied = true;
    setTimeout(() => (copied = false), 1500);
  }
</script>

<div class="flex items-center gap-1 px-4 py-1.5 text-sm text-ash">
  {#each ["html", "css"] as const as kind (kind)}
    <button
      class={["px-2", file === kind ? "font-semibold text-ink underline" : "hover:text-ink"]}
      aria-pressed={file === kind}
      onclick={() => (file = kind)}
    >
      {kind === "html" ? "index.html" : "styles.css"}
    </button>
  {/each}
  <button class="ml-2 px-2 hover:text-ink" onclick={copy}>{copied ? "Copied" : "Copy"}</button>
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
