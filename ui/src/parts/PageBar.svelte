<script lang="ts">
  // The bar of the shelf and of the pages of the installation: whose it is, and what is within reach everywhere.
  import type { Snippet } from "svelte";
  import { createQuery } from "@tanstack/svelte-query";
  import { ask } from "../state/ask";
  import { place } from "../state/place.svelte";
  import BenchLink from "./BenchLink.svelte";
  import FindButton from "./FindButton.svelte";
  import { fit } from "./fit";
  import Jobs from "./Jobs.svelte";
  import LightButton from "./LightButton.svelte";
  import Logo from "./Logo.svelte";
  import WhoIsHere from "./WhoIsHere.svelte";

  let { children }: { children?: Snippet } = $props();
  const installation = createQuery(() => ask.installation());
  const laboratory = $derived(installation.data?.laboratory.name ?? "");
</script>

<header use:fit={["find", "light", "said", "laboratory", "yugen"]}>
  <a class="wm" href="/" title="All studies (Alt 0)" aria-label="Yugen, all studies" onclick={(e) => (e.preventDefault(), place.home())}
    ><Logo /><span class="yu">Yugen</span></a
  >
  {#if laboratory}<b class="laboratory" title="Whose installation this is">{laboratory}</b>{/if}
  <span class="said">{@render children?.()}</span>
  <span class="way"><LightButton /><BenchLink /><Jobs /><FindButton /><WhoIsHere /></span>
</header>

<style>
  header {
    display: flex;
    align-items: center;
    height: 41px;
    padding: 0 16px;
    border-bottom: 1px solid var(--mist-1);
    white-space: nowrap;
    overflow-x: clip;
  }
  header > * {
    flex: none;
  }
  .wm {
    color: var(--ink);
    display: flex;
    gap: 8px;
    align-items: center;
    margin-right: 18px;
  }
  .yu {
    font: 500 19px/1 var(--f-read);
    letter-spacing: 0.015em;
  }
  .laboratory {
    font: 500 15px/20px var(--f-read);
    padding-left: 16px;
    margin-right: 8px;
    border-left: 1px solid var(--mist-1);
  }
  .way {
    display: flex;
    align-items: center;
    margin-left: auto;
  }
  .way > :global(.light) {
    margin-right: 14px;
  }
  :global([data-gone~="find"] .fw),
  :global([data-gone~="light"] .light),
  :global([data-gone~="said"]) .said,
  :global([data-gone~="laboratory"]) .laboratory,
  :global([data-gone~="yugen"]) .yu {
    display: none;
  }
</style>
