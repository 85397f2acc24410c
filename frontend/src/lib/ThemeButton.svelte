<script lang="ts">
  import { theme } from "./theme.svelte";
  const names = { system: "System light", light: "Day", dark: "Night" };
</script>

<button
  class="rounded px-2 py-1 text-ash hover:text-ink"
  onclick={() => theme.next()}
  title="Change between day, night and the system's setting"
>
  {names[theme.value]}
</button>
