<script lang="ts">
  // The bar of a page of the installation: the wordmark leads to the shelf, and who is here can go.
  import type { Snippet } from "svelte";
  import { place } from "../state/place.svelte";
  import { session } from "../state/session.svelte";
  import BenchLink from "./BenchLink.svelte";
  import Jobs from "./Jobs.svelte";
  import Logo from "./Logo.svelte";

  let { children }: { children?: Snippet } = $props();
</script>

<header>
  <a class="wm" href="/" title="All studies (Alt 0)" aria-label="Yugen, all studies" onclick={(e) => (e.preventDefault(), place.home())}
    ><Logo /><span class="yu">Yugen</span></a
  >
  {@render children?.()}
  <span class="way"><BenchLink /><Jobs /></span>
  {#if session.signsIn}<span class="me"
      >{session.me?.name} <button class="lnk" title="Ends this session" onclick={() => session.signOut()}>Sign out</button></span
    >{/if}
</header>

<style>
  header {
    display: flex;
    gap: 16px;
    align-items: center;
    padding: 0 16px;
    border-bottom: 1px solid var(--mist-1);
  }
  .wm {
    color: var(--ink);
    display: flex;
    gap: 8px;
    align-items: center;
  }
  .yu {
    font: 500 20px/1 var(--f-read);
  }
  .way {
    display: flex;
    margin-left: auto;
  }
  .me {
    display: flex;
    gap: 12px;
    align-items: baseline;
  }
</style>
