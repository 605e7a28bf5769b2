<script lang="ts">
  import { QueryClientProvider } from "@tanstack/svelte-query";
  import Desk from "./Desk.svelte";
  import SignIn from "./people/SignIn.svelte";
  import { queries } from "./state/ask";
  import { session } from "./state/session.svelte";

  // Where it cannot be said who one is, the server is away, and the desk says so.
  let known = $state(false);
  void session
    .read()
    .catch(() => {})
    .finally(() => (known = true));
  const shut = $derived(session.signsIn && !session.me?.name);
</script>

<QueryClientProvider client={queries}>
  {#if known && !shut}<div class="desk-place" inert={session.why !== ""}><Desk /></div>{/if}
  {#if known && (shut || session.why)}<SignIn />{/if}
</QueryClientProvider>

<style>
  .desk-place {
    display: contents;
  }
</style>
