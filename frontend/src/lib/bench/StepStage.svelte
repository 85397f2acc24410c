<!-- What the stage shows at each step. -->
<script lang="ts">
  import type { Build } from "$lib/api/client";
  import AssetSheet from "./AssetSheet.svelte";
  import type { Bench } from "./bench.svelte";
  import CodeView from "./CodeView.svelte";
  import HistoryStage from "./HistoryStage.svelte";
  import LayoutMarks from "./LayoutMarks.svelte";
  import LayoutTools from "./LayoutTools.svelte";
  import LivePage from "./LivePage.svelte";
  import Margin from "./Margin.svelte";
  import PartMarks from "./PartMarks.svelte";
  import ResidualMarks from "./ResidualMarks.svelte";
  import Rulers from "./Rulers.svelte";
  import Stage from "./Stage.svelte";
  import TextMarks from "./TextMarks.svelte";
  import TypeSheet from "./TypeSheet.svelte";
  import { edgesOf, snap } from "$lib/layout";
  import * as outlines from "$lib/outline";

  let { bench, build }: { bench: Bench; build: Build } = $props();
  const size = $derived({ width: build.proof!.width, height: build.proof!.height });
  const seen = $derived({ build: build.id, picture: build.picture_id, width: size.width }); // what a stage shows
  const { layout, lines, parts, pins } = $derived(bench);
  const waits = $derived(
    bench.reads
      ? { query: bench.reading, what: "what was read" }
      : bench.look === "outline"
        ? { query: bench.outline, what: "the outline" }
        : undefined,
  );
</script>

{#if waits?.query.isPending}
  <p class="p-6 text-ash" role="status">Fetching {waits.what}…</p>
{:else if waits?.query.isError}
  <p class="m-6 border-l-4 border-signal bg-paper px-4 py-3" role="alert">{waits.query.error?.message}</p>
{:else if bench.look === "code"}
  <CodeView
    build={build.id}
    project={bench.id}
    chosen={parts.chosen}
    online={(at) => parts.choose(outlines.partOfLine(parts.tree.parts, at))}
  />
{:else if bench.look === "live"}
  <LivePage build={build.id} width={size.width} />
{:else if bench.look === "history"}
  <HistoryStage {bench} present={build} />
{:else if bench.look === "outline"}
  <Stage {...seen} look="picture" focus={parts.chosen?.rect} bracketed={false}>
    {#snippet overlay(scale)}
      <PartMarks
        parts={parts.tree.parts}
        {...size}
        {scale}
        chosen={parts.chosen}
        onchoose={parts.choose}
        onshares={(of, shares) => parts.add(outlines.shares(of, shares))}
      />
    {/snippet}
    {#snippet margin(view, scroll)}
      <Margin
        tree={parts.tree}
        chosen={parts.chosen}
        turned={parts.turned}
        {view}
        onchoose={parts.choose}
        onturn={parts.turn}
        onmove={(p, to, other) => parts.add(outlines.order(p, to, other))}
        onscroll={scroll}
      />
    {/snippet}
  </Stage>
{:else if bench.look === "cutouts"}
  <AssetSheet
    reading={bench.reading.data!}
    build={build.id}
    onchange={(change) => pins.mutate(change)}
    onshow={(index) => {
      layout.use("choose");
      layout.chosen = bench.marks.find((m) => m.kind === "picture" && m.index === index);
      bench.turn("layout");
    }}
  />
{:else if bench.look === "layout"}
  <LayoutTools desk={layout} />
  <Stage {...seen} look="picture" focus={layout.chosen?.rect} bracketed={false}>
    {#snippet overlay(scale)}
      <LayoutMarks reading={bench.reading.data!} build={build.id} {scale} desk={layout} />
    {/snippet}
    {#snippet frame(view)}
      <Rulers
        {...view}
        desk={layout}
        snapTo={(axis, at) => snap(edgesOf(bench.marks, axis), at, 7 / view.scale)}
      />
    {/snippet}
  </Stage>
{:else if bench.look === "type"}
  <TypeSheet reading={bench.reading.data!} build={build.id} onpick={lines.choose} />
{:else if bench.look === "read"}
  <Stage
    {...seen}
    look="picture"
    focus={lines.chosen === undefined ? undefined : bench.reading.data?.lines[lines.chosen]?.box}
    bracketed={false}
  >
    {#snippet overlay(scale)}
      <TextMarks reading={bench.reading.data!} {scale} bind:selected={() => lines.chosen, lines.choose} />
    {/snippet}
  </Stage>
{:else}
  <Stage {...seen} look={bench.look} focus={bench.chosen?.rect}>
    {#snippet overlay(scale)}
      {#if bench.look === "difference" && bench.outline.data}
        <ResidualMarks parts={parts.tree.parts} {...size} {scale} />
      {/if}
    {/snippet}
  </Stage>
{/if}
