<script lang="ts">
  import type { StationProps } from "../props";
  let { batch }: StationProps = $props();
</script>

<div class="stage">{batch.name}</div>
