<script lang="ts">
  let { build, width }: { build: string; width: number } = $props();
  const WIDTHS = [320, 390, 768, 1024, 1440, 1920];
  let chosen = $state<number | undefined>();
  const shown = $derived(chosen ?? width);
</script>

<div
  class="flex items-center gap-1 px-4 py-1.5 text-sm text-ash"
  role="group"
  aria-label="Width of the window"
>
  {#each [...new Set([...WIDTHS, width])].sort((a, b) => a - b) as w (w)}
    <button
      class={["px-2", shown === w ? "font-semibold text-ink underline" : "hover:text-ink"]}
      aria-pressed={shown === w}
      onclick={() => (chosen = w)}
    >
      {w}
    </button>
  {/each}
  <span>px wide</span>
</div>
<div class="min-h-0 flex-1 overflow-auto p-4">
  <!-- no scripts, no forms, no origin of its own: the page can only be looked at -->
  <iframe
    title="The written page"
    src={`/api/builds/${build}/files/index.html`}
    sandbox=""
    class="mx-auto block h-full bg-white shadow-[0_0_0_1px_var(--color-drift)]"
    style:width={`${shown}px`}
  ></iframe>
</div>
