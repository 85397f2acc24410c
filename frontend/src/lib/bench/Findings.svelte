<script lang="ts">
  import type { Finding } from "../api/client";
  import { isTyping } from "../looks";

  let {
    findings,
    chosen = $bindable(),
    onshow,
    onaccept,
    onagain,
    onfix,
  }: {
    findings: Finding[];
    chosen?: Finding;
    onshow: () => void;
    onaccept?: (finding: Finding) => void;
    /** Read the finding's place again, from a close-up picture of it if there is one. */
    onagain?: (finding: Finding, closeUp?: File) => void;
    /** Show the part that the finding is about, where its values can be set. */
    onfix?: (finding: Finding) => void;
  } = $props();
  let chooser = $state<HTMLInputElement>();
  // a finding is the same after its list was fetched again
  const same = (a: Finding, b: Finding) =>
    a.kind === b.kind && a.text === b.text && a.rect.x === b.rect.x && a.rect.y === b.rect.y;
  const at = $derived(chosen ? findings.findIndex((f) => same(f, chosen!)) : -1);

  function go(by: 1 | -1) {
    if (!findings.length) return;
    chosen = findings[(at + by + findings.length) % findings.length];
    onshow();
  }

  /** It is as it should be: the next one comes in its place. */
  function take(finding: Finding) {
    const next = findings[at + 1] ?? findings[at - 1];
    onaccept?.(finding);
    chosen = next;
  }

  function keys(event: KeyboardEvent) {
    if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event)) return;
    if (event.key === "n") go(1);
    else if (event.key === "p") go(-1);
    else if (event.key === "a" && chosen && onaccept) take(chosen);
    else if (event.key === "f" && chosen && chosen.node >= 0 && onfix) onfix(chosen);
    else if (event.key === "r" && chosen && onagain) onagain(chosen);
    else if (event.key === "Escape") chosen = undefined;
  }
</script>

<svelte:window
  onkeydown={keys}
  onpaste={(event) => {
    const file = [...(event.clipboardData?.files ?? [])].find((f) => f.type.startsWith("image/"));
    if (file && chosen && onagain && !isTyping(event)) onagain(chosen, file);
  }}
/>

<footer class="flex items-center gap-4 border-t border-drift bg-paper px-5 py-2" aria-label="Findings">
  <h2 class="font-semibold">{findings.length} finding{findings.length === 1 ? "" : "s"}</h2>
  {#if findings.length}
    <button class="px-1 text-ash hover:text-ink" onclick={() => go(-1)} title="Previous. Key p"
      >Previous</button
    >
    <button class="px-1 text-ash hover:text-ink" onclick={() => go(1)} title="Next. Key n">Next</button>
    {#if chosen && onfix && chosen.node >= 0}
      <button
        class="px-1 text-ash hover:text-ink"
        onclick={() => onfix(chosen!)}
        title="To the part it is about, where its values can be set or snapped. Key f">Fix</button
      >
    {/if}
    {#if chosen && onaccept}
      <button
        class="px-1 text-ash hover:text-ink"
        onclick={() => take(chosen!)}
        title="It is as it should be: no longer a finding, undone like any correction. Key a">Accept</button
      >
    {/if}
    {#if chosen && onagain}
      <button
        class="px-1 text-ash hover:text-ink"
        onclick={() => onagain(chosen!)}
        title="Read the text of this place again, enlarged. Key r">Read again</button
      >
      <button
        class="px-1 text-ash hover:text-ink"
        onclick={() => chooser?.click()}
        title="Read it from a larger picture of the same place: choose a file, or paste it"
        >From a close-up</button
      >
      <input
        bind:this={chooser}
        type="file"
        accept="image/*"
        class="sr-only"
        aria-label="Close-up picture"
        tabindex="-1"
        onchange={(event) => {
          const file = event.currentTarget.files?.[0];
          if (file && chosen) onagain(chosen, file);
          event.currentTarget.value = "";
        }}
      />
    {/if}
    <p class="min-w-0 flex-1 truncate" aria-live="polite">
      {#if chosen}
        {#if at >= 0}<span class="text-ash">{at + 1}.</span>{/if}
        <span class="font-semibold">{chosen.kind}</span>: {chosen.text}
      {:else}
        <span class="text-ash">worst first: {findings[0]?.text}</span>
      {/if}
    </p>
  {:else}
    <p class="text-ash">Nothing that a person would need to look at.</p>
  {/if}
</footer>
