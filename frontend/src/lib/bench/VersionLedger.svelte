<script lang="ts">
  import type { Build, Version } from "../api/client";
  import { percent, pixels } from "../format";
  import { compareQuery, dropVersionMutation, returnMutation } from "../queries";

  let {
    version,
    present,
    against = $bindable(),
    ondropped,
  }: {
    version: Version;
    present: Build;
    against: "page" | "picture" | "difference";
    ondropped: () => void;
  } = $props();

  const comparison = compareQuery(
    () => version.id,
    () => (version.id === present.id || version.state !== "done" ? undefined : present.id),
  );
  const back = returnMutation();
  const drop = dropVersionMutation();
  const [a, b] = $derived([version.proof, present.proof]);
  const rows = $derived(
    a && b
      ? ([
          ["Words found", `${a.words_found}`, `${b.words_found}`],
          ["Within 2 px", percent(a.within_2px), percent(b.within_2px)],
          ["Median offset", pixels(a.position_px), pixels(b.position_px)],
          ["Colour, ΔE00", a.delta_e.toFixed(2), b.delta_e.toFixed(2)],
          ["Similarity", a.ssim.toFixed(4), b.ssim.toFixed(4)],
          ["Findings", `${a.findings.length}`, `${b.findings.length}`],
        ] as const)
      : [],
  );
  /** A difference's lines without its file names and the indentation that all of them share. */
  function plain(diff: string): string[] {
    const lines = diff.split("\n").slice(2);
    const body = lines.filter((l) => !l.startsWith("@@") && l.trim().length > 1);
    const indent = Math.min(...body.map((l) => l.slice(1).search(/\S/)));
    return lines.map((l) => (l.startsWith("@@") ? l : `${l[0] ?? " "} ${l.slice(1 + indent)}`));
  }
  const looks = [
    ["page", "the page in use"],
    ["picture", "the picture"],
    ["difference", "difference from the picture"],
  ] as const;
</script>

<aside class="min-h-0 overflow-auto border-l border-drift bg-paper px-5 py-4" aria-label="Ledger">
  <h2 class="font-semibold">{version.kind === "brought" ? "A page of yours" : "This page"}</h2>
  <p class="text-ash">{version.says}</p>
  {#if version.error}<p class="mt-2 text-signal" role="alert">{version.error}</p>{/if}
  {#if version.state === "done"}
    <fieldset class="mt-4">
      <legend class="font-semibold">Beside it</legend>
      {#each looks as [id, label] (id)}
        {#if !(id === "page" && version.id === present.id)}
          <label class="mt-1 flex items-center gap-2">
            <input type="radio" name="against" value={id} bind:group={against} class="accent-firn" />{label}
          </label>
        {/if}
      {/each}
    </fieldset>
    <table class="mt-4 w-full">
      <thead class="text-ash">
        <tr>
          <td></td>
          <th scope="col" class="text-right font-normal">this</th>
          <th scope="col" class="text-right font-normal">in use</th>
        </tr>
      </thead>
      <tbody>
        {#each rows as [name, one, other] (name)}
          <tr class="border-b border-drift">
            <th scope="row" class="py-1.5 text-left font-normal text-ash">{name}</th>
            <td class="py-1.5 text-right font-semibold">{one}</td>
            <td class={["py-1.5 text-right", one === other && "text-ash"]}>{other}</td>
          </tr>
        {/each}
      </tbody>
    </table>
    {#if comparison.data}
      <h3 class="mt-5 font-semibold">From it to the page in use</h3>
      <p class="mt-1 text-ash">
        {comparison.data.drawn_apart === null
          ? ""
          : `${percent(comparison.data.drawn_apart)} of the px are drawn otherwise. `}{comparison.data
          .assets_changed
          ? `${comparison.data.assets_changed} other files changed.`
          : ""}
      </p>
      {#each comparison.data.files as file (file.name)}
        {#if !file.diff}
          <p class="mt-2 border-t border-drift pt-2">
            {file.name} <span class="text-ash">is the same</span>
          </p>
        {:else}
          <details class="mt-2 border-t border-drift pt-2" open={file.added + file.removed < 40}>
            <summary
              >{file.name}
              <span class="text-ash">{file.added} lines more, {file.removed} fewer</span></summary
            >
            <pre class="mt-1 overflow-x-auto text-xs leading-5">{#each plain(file.diff) as line, i (i)}<span
                  class={[
                    line.startsWith("+") && "font-semibold",
                    line.startsWith("-") && "text-ash line-through decoration-drift",
                    line.startsWith("@@") && "text-ash",
                  ]}
                  >{line}
</span>{/each}</pre>
          </details>
        {/if}
      {/each}
    {/if}
  {/if}
  <div class="mt-5 flex flex-col items-start gap-2">
    {#if version.kind === "brought"}
      <button
        class="border border-drift px-3 py-1.5 hover:border-ink"
        onclick={() => drop.mutate(version.id, { onSuccess: ondropped })}>Take it out of the history</button
      >
    {:else if version.state === "done" && version.id !== present.id}
      <button
        class="bg-ink px-3 py-1.5 font-semibold text-paper hover:bg-firn"
        disabled={back.isPending}
        onclick={() => back.mutate(version.id)}>Go back to this page</button
      >
      <p class="text-sm text-ash">What came after it stays here, and undo leads back to its corrections.</p>
    {/if}
    {#if version.state === "done" && version.kind === "written"}
      <a class="underline" href={`/api/builds/${version.id}/archive.zip`} download>Its files (ZIP)</a>
    {/if}
  </div>
  {#if back.isError}<p class="mt-2 text-signal" role="alert">{back.error.message}</p>{/if}
</aside>
