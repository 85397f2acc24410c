<script lang="ts">
  import { QueryClientProvider } from "@tanstack/svelte-query";
  import { Router } from "sv-router";
  import "./router";
  import { client, follow } from "$lib/queries";

  $effect(() => follow());
</script>

<QueryClientProvider {client}>
  <Router />
</QueryClientProvider>
