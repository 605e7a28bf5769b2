<script lang="ts">
  // Signatures: what one means, what it is over, who gave them, and how they are taken off again.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Review } from "../../api/client";
  import Seal from "../../parts/Seal.svelte";
  import { count } from "../../look/number";
  import { ask } from "../../state/ask";
  import { session } from "../../state/session.svelte";
  import { who } from "../../state/who.svelte";
  import PasswordAgain from "./PasswordAgain.svelte";
  import { reviewing } from "./review.svelte";
  import { sealed, when } from "./words";

  let { batch, r, open, back }: { batch: Batch; r: Review; open: number; back: number } = $props();
  const installation = createQuery(() => ask.installation());
  const name = $derived(session.signsIn ? (session.me?.name ?? "") : who.name || (installation.data?.analyst ?? ""));
  const can = $derived(r.may.filter((m) => !m.why_not));
  let meaning = $state<Review["may"][number]["meaning"] | "">("");
  const chosen = $derived(can.find((m) => m.meaning === meaning) ?? can[0]);
  let password = $state("");
  let trouble = $state("");
  let unlocking = $state(false);
  let approving = $state(false);
  let reason = $state("");
  async function sign() {
    if (!chosen) return;
    trouble = await reviewing.sign(batch, chosen.meaning, password);
    password = "";
    reviewing.trouble = "";
  }
  async function approve() {
    trouble = await reviewing.approve(batch, password);
    password = "";
    reviewing.trouble = "";
    if (!trouble) approving = false;
  }
  async function unlock() {
    trouble = await reviewing.unlock(batch, reason, password);
    password = "";
    reviewing.trouble = "";
    if (!trouble) {
      unlocking = false;
      reason = "";
    }
  }
</script>

<section aria-label="Sign">
  <h2>Sign <span class="r">{open + back > 0 ? `${open + back} to go` : r.items.length ? `all ${r.items.length} looked at` : ""}</span></h2>
  <div class="strokes" aria-hidden="true">
    {#each r.items as i (i.key)}<i class={i.judged?.verdict === "accepted" ? "yes" : i.judged ? "back" : ""}></i>{/each}
  </div>
  {#if can.length > 0}
    <form
      onsubmit={(e) => {
        e.preventDefault();
        void sign();
      }}
    >
      <fieldset>
        <legend class="note">My signature means</legend>
        {#each can as m (m.meaning)}
          <label class="means"
            ><input
              type="radio"
              name="meaning"
              title="Signs as {m.meaning}"
              checked={chosen?.meaning === m.meaning}
              onchange={() => (meaning = m.meaning)}
            /><span><b>{m.meaning}</b>: {m.words}</span></label
          >
        {/each}
      </fieldset>
      <p class="who">{name}{session.signsIn ? "" : ", not proven by a password"}</p>
      <PasswordAgain id="sign-password" {name} bind:value={password} />
      <button class="btn pri" disabled={reviewing.busy || (session.signsIn && !password)} title="Signs what stands here"
        ><Seal /> {chosen?.meaning === "prepared" ? "Sign" : "Sign and lock"}</button
      >
    </form>
  {/if}
  {#each r.may.filter((m) => m.why_not) as m (m.meaning)}<p class="note"><b>{m.meaning}</b>: {m.why_not}</p>{/each}
  {#if r.open_notices > 0}<p class="note">{count(r.open_notices, "notice is", "notices are")} still open.</p>{/if}
  {#if trouble}<p class="att" role="alert">{trouble}</p>{/if}
</section>
<section aria-label="What signing locks">
  <h2>What is signed</h2>
  <p class="fact"><span>Results</span><span>{r.sealed.results}, from {count(r.sealed.injections, "injection")}</span></p>
  <p class="fact">
    <span>Method</span><span
      >{batch.version.name}, version {r.version}{r.approved?.number === r.version ? ", approved" : ", not approved"}</span
    >
  </p>
  {#if r.approved?.number !== r.version && session.may("approve")}
    {#if approving}
      <form
        onsubmit={(e) => {
          e.preventDefault();
          void approve();
        }}
      >
        <PasswordAgain id="approve-password" to=", to approve version {r.version}" {name} bind:value={password} />
        <p class="acts">
          <button class="btn" disabled={reviewing.busy || (session.signsIn && !password)} title="Approves this version for every batch"
            >Approve version {r.version}</button
          >
          <button type="button" class="lnk" title="Leaves it as it is" onclick={() => (approving = false)}>leave it</button>
        </p>
      </form>
    {:else}<p>
        <button class="lnk" title="Approves this version of the method, for every batch" onclick={() => (approving = true)}
          >Approve version {r.version} …</button
        >
      </p>{/if}
  {/if}
  <p class="fact"><span>By hand</span><span>{count(r.sealed.by_hand, "change")}</span></p>
  <p class="fact"><span>Reports kept</span><span>{r.sealed.reports}</span></p>
  <p class="fact"><span>Seal</span><span class="seal">{sealed(r.seal.all)}</span></p>
</section>
<section aria-label="Signatures">
  <h2>Signatures</h2>
  {#each r.signatures as s, k (k)}
    <div class="given" class:gone={s.gone || (!s.locks && !s.holds)}>
      <Seal filled={!s.gone} />
      <div>
        <p>{s.name}, <b>{s.meaning}</b></p>
        <p class="note">{when(s.at)} · seal {sealed(s.seal.all)}</p>
        {#if s.alone || !s.proven}<p class="note">
            {[s.alone && "not independent", !s.proven && "not proven by a password"].filter(Boolean).join(", ")}
          </p>{/if}
        {#if s.gone}<p class="att">withdrawn {when(s.gone.at)} by {s.gone.who}: {s.gone.why}</p>
        {:else if !s.holds}<p class="att">
            changed since, {s.moved ? "and reported numbers are others now" : "no reported number moved"}
          </p>{/if}
      </div>
    </div>
  {:else}<p class="note">Nobody has signed.</p>{/each}
  {#if r.locked}
    {#if unlocking}
      <form
        onsubmit={(e) => {
          e.preventDefault();
          void unlock();
        }}
      >
        <label class="note" for="unlock-reason">Why? Every later report says it.</label>
        <input id="unlock-reason" class="field" maxlength="500" title="Why it is unlocked" bind:value={reason} />
        <PasswordAgain id="unlock-password" {name} bind:value={password} />
        <p class="acts">
          <button class="btn" disabled={!reason.trim() || reviewing.busy} title="Takes the signatures off">Unlock</button>
          <button type="button" class="lnk" title="Leaves it signed" onclick={() => (unlocking = false)}>leave it</button>
        </p>
      </form>
    {:else if r.may_unlock}<p>
        <button class="lnk" title="Takes the signatures off, with a reason" onclick={() => (unlocking = true)}>Unlock …</button>
      </p>
    {:else}<p class="note">A reviewer unlocks it, with a reason.</p>{/if}
  {:else}<p class="note">
      Signing as reviewed or approved locks the batch. A reviewer unlocks it, with a reason; the signature then stays as withdrawn.
    </p>{/if}
</section>

<style>
  .strokes {
    display: flex;
    gap: 2px;
    margin: 4px 0 6px;
  }
  .strokes i {
    flex: 1;
    height: 4px;
    max-width: 24px;
    background: var(--mist-3);
  }
  .strokes .yes {
    background: var(--ai);
  }
  .strokes .back {
    background: var(--kaki);
  }
  form {
    display: grid;
    gap: 5px;
    justify-items: start;
  }
  form .field {
    width: 100%;
  }
  fieldset {
    display: grid;
    gap: 3px;
  }
  .means {
    display: flex;
    gap: 7px;
    align-items: baseline;
    min-height: 24px;
  }
  input[type="radio"] {
    accent-color: var(--ai);
  }
  .who {
    font: 500 15px/20px var(--f-read);
  }
  .btn :global(svg) {
    color: inherit;
    margin-right: 6px;
    vertical-align: -2px;
  }
  .fact {
    display: flex;
    justify-content: space-between;
    gap: 12px;
    border-bottom: 1px solid var(--mist-1);
    padding: 3px 0;
    font-size: 12.5px;
  }
  .fact span:last-child {
    text-align: right;
  }
  .seal {
    font-variant-numeric: tabular-nums;
    letter-spacing: 0.03em;
  }
  .given {
    display: flex;
    gap: 9px;
    padding: 4px 0;
    border-bottom: 1px solid var(--mist-1);
  }
  .given :global(svg) {
    margin-top: 3px;
  }
  .gone > div > p:first-child {
    color: var(--ink-2);
    text-decoration: line-through;
  }
  .acts {
    display: flex;
    gap: 12px;
    align-items: center;
  }
  .att {
    color: var(--kaki-text);
  }
</style>
