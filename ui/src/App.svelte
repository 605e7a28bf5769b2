<script lang="ts">
  import { QueryClientProvider } from "@tanstack/svelte-query";
  import Desk from "./Desk.svelte";
  import { queries } from "./state/ask";
</script>

<QueryClientProvider client={queries}>
  <Desk />
</QueryClientProvider>
