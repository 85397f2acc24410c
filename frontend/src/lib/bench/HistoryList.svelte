<script lang="ts">
  import type { Version } from "../api/client";
  import { clock } from "../format";
  import { bringPageMutation } from "../queries";

  let {
    project,
    versions,
    chosen,
    onchoose,
  }: {
    project: string;
    versions: Version[];
    chosen: Version | undefined;
    onchoose: (version: Version) => void;
  } = $props();

  const bring = bringPageMutation(() => project);
  let address = $state("");
  let files: HTMLInputElement;

  async function take(body: { address: string } | { files: File[] }) {
    try {
      onchoose(await bring.mutateAsync(body));
      address = "";
    } catch {
      // shown below: the mutation keeps its error
    }
  }
</script>

<div class="flex w-72 shrink-0 flex-col border-r border-drift bg-paper">
  <form
    class="border-b border-drift px-4 py-3"
    onsubmit={(e) => {
      e.preventDefault();
      void take({ address });
    }}
  >
    <h2 class="font-semibold">Prove a page of yours</h2>
    <p class="text-sm text-ash">Its files, a ZIP of them, or where it runs on this machine.</p>
    <button
      type="button"
      class="mt-2 w-full border border-drift px-3 py-1.5 text-left hover:border-ink"
      disabled={bring.isPending}
      onclick={() => files.click()}>{bring.isPending ? "Taking it in…" : "Choose files"}</button
    >
    <input
      bind:this={files}
      type="file"
      multiple
      class="sr-only"
      tabindex="-1"
      aria-label="Files of a page"
      accept=".html,.htm,.css,.zip,.png,.jpg,.jpeg,.webp,.avif,.svg,.gif,.woff2,.woff,.ttf"
      onchange={(e) => {
        const chosen = [...(e.currentTarget.files ?? [])];
        if (chosen.length) void take({ files: chosen });
        e.currentTarget.value = "";
      }}
    />
    <div class="mt-2 flex">
      <input
        bind:value={address}
        aria-label="Address of a page on this machine"
        placeholder="http://localhost:8080/"
        class="min-w-0 flex-1 border border-drift bg-snow px-2 py-1"
      />
      <button class="border border-l-0 border-drift px-2 hover:border-ink" disabled={!address}>Prove</button>
    </div>
    {#if bring.isError}<p class="mt-2 text-signal" role="alert">{bring.error.message}</p>{/if}
  </form>
  <ol class="min-h-0 flex-1 overflow-auto" aria-label="History">
    {#each versions as version, i (version.id)}
      {@const day = new Date(version.created_at).toLocaleDateString("en-GB", {
        day: "numeric",
        month: "long",
      })}
      {#if i === 0 || day !== new Date(versions[i - 1]!.created_at).toLocaleDateString( "en-GB", { day: "numeric", month: "long" } )}
        <li class="px-4 pt-3 pb-1 text-sm text-ash">{day}</li>
      {/if}
      <li>
        <button
          class={[
            "grid w-full grid-cols-[3rem_1fr] gap-x-2 border-l-4 px-3 py-2 text-left",
            chosen?.id === version.id ? "border-firn bg-snow" : "border-transparent hover:bg-snow",
          ]}
          aria-current={chosen?.id === version.id}
          onclick={() => onchoose(version)}
        >
          <span class="text-ash">{clock(version.created_at)}</span>
          <span class={["min-w-0 break-words", version.kind === "brought" && "italic"]}>{version.says}</span>
          <span></span>
          <span class="text-sm text-ash">
            {#if version.present}<b class="me-1 font-semibold text-ink">in use:</b>
            {/if}{#if version.proof}{version.proof.words_found} words, {version.proof.position_px.toFixed(2)} px,
              {version.proof.ssim.toFixed(3)}{:else if version.state === "failed"}<span class="text-signal"
                >failed</span
              >{:else if version.state === "cancelled"}cancelled{:else}under way…{/if}
          </span>
        </button>
      </li>
    {/each}
  </ol>
</div>
