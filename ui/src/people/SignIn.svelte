<script lang="ts">
  // The entrance: name, password, where one will land. Over work that is under way it leaves everything as it was.
  import { createQuery } from "@tanstack/svelte-query";
  import Logo from "../parts/Logo.svelte";
  import { ask, queries } from "../state/ask";
  import { place } from "../state/place.svelte";
  import { session } from "../state/session.svelte";

  const installation = createQuery(() => ask.installation());
  let name = $state(session.me?.name ?? "");
  let password = $state("");
  let refused = $state("");
  let busy = $state(false);
  let field = $state<HTMLInputElement>();
  let first = $state<HTMLInputElement>();
  const back = place.batch ? `then back to ${place.station[0]?.toUpperCase()}${place.station.slice(1)}` : "";
  $effect(() => (session.me?.name ? field : first)?.focus());

  async function enter(e: SubmitEvent) {
    e.preventDefault();
    busy = true;
    refused = await session.signIn(name, password);
    busy = false;
    password = "";
    if (!refused) await queries.invalidateQueries();
    else field?.focus();
  }

  /** A landscape of ridges, the same each time: nothing measured is shown to who has not signed in. */
  const ridges = Array.from({ length: 8 }, (_, row) => {
    const tops = Array.from({ length: 7 }, (_, k) => ({
      at: (k * 197 + row * 331 + ((k * k * 61 + row * 17) % 97)) % 1280,
      high: 14 + ((k * 53 + row * 71) % 13) ** 2 * (0.35 + row * 0.09),
      wide: 6 + ((k * 7 + row * 5) % 9),
    }));
    const base = 60 + row * 27;
    let path = `M-9 ${base}`;
    for (let x = -8; x <= 1288; x += 4)
      path += `L${x} ${(base - tops.reduce((y, t) => y + t.high * Math.exp(-(((x - t.at) / t.wide) ** 2) / 2), 0)).toFixed(1)}`;
    return `${path}L1289 270L-9 270Z`;
  });
</script>

<main aria-label="Sign in">
  <form onsubmit={enter}>
    <h1><Logo width={45} /> Yugen</h1>
    <p class="lab">{installation.data?.laboratory.name ?? ""}</p>
    {#if session.why}<p class="note" role="status">{session.why}</p>{/if}
    <label for="entering">Name</label>
    <input
      id="entering"
      bind:this={first}
      class="field"
      bind:value={name}
      autocomplete="username"
      maxlength="80"
      required
      title="Your name, as it stands in the record"
    />
    <label for="password">Password</label>
    <input
      id="password"
      class="field"
      type="password"
      bind:this={field}
      bind:value={password}
      autocomplete="current-password"
      maxlength="500"
      required
      title="Your password"
    />
    {#if refused}<p class="att" role="alert">{refused}</p>{/if}
    <p class="acts">
      <button class="btn pri" disabled={busy} title="Signs you in">{busy ? "Signing in …" : "Sign in"} <kbd>Enter</kbd></button>
      <span class="note">{back}</span>
    </p>
  </form>
  <svg viewBox="0 0 1280 260" preserveAspectRatio="none" aria-hidden="true">
    {#each ridges as d, k (k)}<path {d} style:opacity={0.16 + k * 0.08} />{/each}
  </svg>
  <p class="foot"><span>Forgotten? A keeper gives you a new one.</span><span>Signing in and out is written to the record.</span></p>
</main>

<style>
  main {
    position: fixed;
    inset: 0;
    z-index: 60;
    background: var(--paper);
    overflow: auto;
  }
  form {
    position: relative;
    z-index: 1;
    width: 303px;
    margin: 23vh auto 0;
    display: grid;
    gap: 4px;
  }
  h1 {
    font: 400 33px/1.2 var(--f-read);
    display: flex;
    gap: 14px;
    align-items: center;
  }
  .lab {
    font: 15px/21px var(--f-read);
    color: var(--ink-2);
    margin-bottom: 18px;
    min-height: 21px;
  }
  label {
    font-size: 12px;
    color: var(--ink-2);
  }
  .field {
    margin-bottom: 12px;
    background: var(--paper);
  }
  .acts {
    display: flex;
    gap: 16px;
    align-items: baseline;
  }
  svg {
    position: absolute;
    left: 0;
    bottom: 0;
    width: 100%;
    height: 40vh;
  }
  path {
    fill: color-mix(in oklab, var(--mist-1) 60%, var(--paper));
    stroke: var(--ink);
    stroke-width: 1;
    vector-effect: non-scaling-stroke;
  }
  .foot {
    position: absolute;
    left: 16px;
    right: 16px;
    bottom: 8px;
    display: flex;
    justify-content: space-between;
    gap: 16px;
    font-size: 12px;
    color: var(--ink);
  }
</style>
