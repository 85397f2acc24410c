<!-- The ledger beside the stage at each step. -->
<script lang="ts">
  import type { Build, Project } from "$lib/api/client";
  import type { Bench } from "./bench.svelte";
  import CodeEdits from "./CodeEdits.svelte";
  import LayoutLedger from "./LayoutLedger.svelte";
  import Ledger from "./Ledger.svelte";
  import LineLedger from "./LineLedger.svelte";
  import PartLedger from "./PartLedger.svelte";
  import PictureLedger from "./PictureLedger.svelte";
  import VersionLedger from "./VersionLedger.svelte";
  import type { PinChange } from "$lib/queries";

  let { bench, project, build }: { bench: Bench; project: Project; build: Build } = $props();
  const { lines, parts, versions } = $derived(bench);
  const onchange = (change: PinChange) => bench.pins.mutate(change);
</script>

{#if bench.look === "read" && bench.reading.data}
  <LineLedger reading={bench.reading.data} build={build.id} {project} selected={lines.chosen} {onchange} />
{:else if bench.look === "layout" && bench.reading.data}
  <LayoutLedger reading={bench.reading.data} build={build.id} {project} desk={bench.layout} {onchange} />
{:else if bench.look === "outline" && bench.outline.data}
  <PartLedger
    tree={parts.tree}
    roles={bench.outline.data.roles}
    checks={bench.outline.data.checks}
    build={build.id}
    {project}
    chosen={parts.chosen}
    liking={parts.liking}
    onchoose={parts.choose}
    onlike={(p) => (parts.liking = p)}
    {onchange}
  />
{:else if bench.look === "code"}
  <CodeEdits {project} {onchange} />
{:else if bench.look === "history" && versions.chosen}
  <VersionLedger
    version={versions.chosen}
    present={build}
    bind:against={versions.against}
    ondropped={versions.forget}
  />
{:else if bench.look === "picture"}
  <PictureLedger {project} />
{:else}
  <Ledger {build} {project} onagain={() => bench.again.mutate(bench.id)} />
{/if}
