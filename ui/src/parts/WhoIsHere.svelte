<script lang="ts">
  // Whose name goes into the record: their initials, which open to another name, or to the way out where people sign in.
  import { Popover, Portal } from "@skeletonlabs/skeleton-svelte";
  import { createQuery } from "@tanstack/svelte-query";
  import { ask } from "../state/ask";
  import { light } from "../state/light.svelte";
  import { place } from "../state/place.svelte";
  import { session } from "../state/session.svelte";
  import { who } from "../state/who.svelte";

  const installation = createQuery(() => ask.installation());
  let typed = $state("");
  const name = $derived(session.signsIn ? (session.me?.name ?? "") : typed || who.name || (installation.data?.analyst ?? ""));
  const initials = $derived(
    name
      .split(/[\s.]+/)
      .filter(Boolean)
      .map((w) => w[0]!.toUpperCase())
      .slice(0, 2)
      .join(""),
  );
  let asking = $state(false);
  const whose = $derived(
    `${initials}: ${[name, ...(session.signsIn ? (session.me?.roles ?? []) : [])].join(", ")}; this name goes into the record`,
  );
</script>

<Popover open={asking} onOpenChange={(d) => (asking = d.open)} positioning={{ placement: "bottom-end" }}>
  <Popover.Trigger class="me" title={whose} aria-label={whose}>{initials}</Popover.Trigger>
  <Portal>
    <Popover.Positioner>
      <Popover.Content class="whose" aria-label="Who is working">
        {#if session.signsIn}<div class="signed">
            <b>{name}</b><span class="note">{session.me?.roles.join(", ")}</span>
            <button class="lnk" title="Ends this session" onclick={() => session.signOut()}>Sign out</button>
            <button class="lnk" title="Ends every session of yours" onclick={() => session.signOut(true)}>Sign out everywhere</button>
            <button
              class="lnk"
              title={session.may("keep") ? "Who may come in" : "What acts in your name"}
              onclick={() => place.home("people")}>{session.may("keep") ? "People" : "Your tokens"}</button
            >
            <button type="button" class="lnk light-too" onclick={() => light.toggle()}>{light.night ? "Paper" : "Night"}</button>
          </div>{:else}<form
            onsubmit={(e) => {
              e.preventDefault();
              who.is(name);
              typed = "";
              asking = false;
            }}
          >
            <label for="analyst">Name in the record</label>
            <input id="analyst" class="field" value={name} oninput={(e) => (typed = e.currentTarget.value)} maxlength="80" />
            <button class="btn">Use</button>
            <button type="button" class="lnk light-too" onclick={() => light.toggle()}>{light.night ? "Paper" : "Night"}</button>
          </form>{/if}
      </Popover.Content>
    </Popover.Positioner>
  </Portal>
</Popover>

<style>
  .signed {
    display: grid;
    gap: 4px;
    justify-items: start;
  }
  :global(.me) {
    margin-left: 14px;
    font: 500 13px/1 var(--f-read);
    letter-spacing: 0.04em;
    border: 1px solid var(--mist-2);
    width: 26px;
    height: 26px;
    display: grid;
    place-items: center;
    border-radius: 50%;
  }
  :global(.whose) {
    background: var(--paper);
    border: 1px solid var(--ink-3);
    padding: 10px 12px;
    z-index: 10;
  }
  form {
    display: grid;
    gap: 8px;
    width: 200px;
    font-size: 12px;
  }
</style>
