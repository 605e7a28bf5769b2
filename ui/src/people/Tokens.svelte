<script lang="ts">
  // Tokens for scripts: everybody's for who keeps the house, else one's own.
  import { createQuery } from "@tanstack/svelte-query";
  import { ask } from "../state/ask";
  import { session } from "../state/session.svelte";
  import { people } from "./people.svelte";

  let { says }: { /** What a right is, in words. */ says: (right: string) => string } = $props();
  const tokens = createQuery(() => ask.tokens());
  let script = $state("");
  let rights = $state<string[]>(["look"]);
  let days = $state(90);
  async function make(e: SubmitEvent) {
    e.preventDefault();
    if (await people.token(script, rights, days)) script = "";
  }
  const day = (t: string | null | undefined) =>
    t ? new Date(t).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" }) : "never";
</script>

<section aria-label="Tokens for scripts">
  <h2>Tokens for scripts <span class="r">{tokens.data?.length ?? ""}</span></h2>
  {#each tokens.data ?? [] as k (k.id)}<p class="fact">
      <span>{k.name}<span class="note"> {k.person}: {k.rights.join(", ")}</span></span>
      <span class="note"
        >until {day(k.ends_at)}
        <button class="lnk" title="Ends this token; last used: {day(k.last_used)}" onclick={() => people.endToken(k.id)}>end</button></span
      >
    </p>{:else}<p class="note">None. A token acts as its person, with less.</p>{/each}
  {#if people.fresh}<p class="fresh">
      <code>{people.fresh.text}</code><span class="note"
        >Shown this once. It acts as {people.fresh.person}, with less, until {day(people.fresh.ends_at)}.</span
      >
    </p>{/if}
  {#if session.signsIn}
    <form onsubmit={make}>
      <label for="token-name">What for</label>
      <input id="token-name" class="field" bind:value={script} maxlength="80" required title="What the script does" />
      <fieldset>
        <legend>May</legend>
        {#each (session.me?.rights ?? []).filter((r) => r !== "keep") as r (r)}<label class="chk"
            ><input type="checkbox" value={r} bind:group={rights} title={says(r)} />{r}</label
          >{/each}
      </fieldset>
      <p class="acts">
        <label
          >for <input class="field num days" type="number" min="1" max="366" bind:value={days} title="It ends after so many days" /> days</label
        >
        <button class="btn" title="Makes a token of yours">New token</button>
      </p>
    </form>
  {/if}
</section>

<style>
  form {
    display: grid;
    gap: 4px;
    margin-top: 6px;
  }
  label {
    font-size: 12.5px;
  }
  .chk {
    min-height: 26px;
  }
  fieldset {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 14px;
    margin: 6px 0;
  }
  legend {
    font-size: 12.5px;
    color: var(--ink-2);
  }
  .acts {
    display: flex;
    gap: 14px;
    align-items: baseline;
    margin-top: 6px;
  }
  .days {
    width: 56px;
  }
  .fact {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    align-items: baseline;
    border-bottom: 1px solid var(--mist-1);
    font-size: 12.5px;
    min-height: 26px;
  }
  .fact > .note {
    white-space: nowrap;
  }
  .fact .note {
    margin-left: 6px;
  }
  .fresh {
    border: 1px solid var(--mist-3);
    padding: 6px 8px;
    display: grid;
    gap: 4px;
    margin: 8px 0;
    overflow-wrap: anywhere;
  }
</style>
