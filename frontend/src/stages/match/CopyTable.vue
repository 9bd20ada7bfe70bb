<script setup lang="ts">
// Fields as rows, copies as columns; letters that differ are marked, and what the kept record says.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { pieces, ROWS, signed, VERDICTS, type Copy, type Fields, type Row } from './compare'

const props = defineProps<{
  copies: Copy[]
  kept: Fields
  /** Which copy gave each field of the kept record. */
  owner: (field: string) => number | undefined
  evidence?: Schemas['Evidence'][]
  raw: boolean
  choosable?: boolean
  chosen?: Schemas['ChosenValue'][]
}>()
const emit = defineEmits<{ choose: [copy: number, row: Row]; unchoose: [choice: number] }>()
const lines = computed(() =>
  ROWS.map((row) => {
    const texts = props.copies.map((copy) => row.text(copy.record))
    return {
      row,
      texts,
      cells: pieces(texts),
      kept: row.text(props.kept),
      weight: props.evidence?.find((one) => one.field === row.weighed),
    }
  }).filter(
    (row) =>
      row.texts.some(Boolean) &&
      !(row.row.fields[0] === 'language' && new Set(row.texts.filter(Boolean)).size < 2 && !row.weight?.weight),
  ),
)
const verdicts = computed(() => props.copies.some((copy) => copy.verdicts.length))
const gives = (copy: Copy, row: Row) => row.fields.some((field) => props.owner(field) === copy.id)
const choice = (row: Row) => props.chosen?.find((one) => row.fields.includes(one.field))
function keptSays(line: (typeof lines.value)[number]): string {
  if (!line.kept) return ''
  const owners = props.copies.filter((copy) => gives(copy, line.row))
  const number = owners.length === 1 ? props.copies.indexOf(owners[0]!) + 1 : 0
  return line.texts.every((text) => text && text === line.texts[0])
    ? 'all the same'
    : number
      ? `copy ${number}`
      : line.kept
}
</script>

<template>
  <table class="copies" :style="{ minWidth: `${(evidence ? 360 : 220) + copies.length * 210}px` }">
    <colgroup>
      <col class="label" />
      <col v-for="copy in copies" :key="copy.id" />
      <col v-if="evidence" class="weight" />
      <col class="kept" />
    </colgroup>
    <thead>
      <tr>
        <th><span class="unseen">Field</span></th>
        <th v-for="(copy, k) in copies" :key="copy.id">
          <span class="number">{{ k + 1 }}</span> {{ copy.origin }}<slot name="head" :copy="copy" :index="k" />
        </th>
        <th v-if="evidence" class="num">Weight</th>
        <th>Kept record says</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="line in lines" :key="line.row.label">
        <th scope="row">{{ line.row.label }}</th>
        <td v-for="(cell, k) in line.cells" :key="k" class="read side" :class="{ gives: gives(copies[k]!, line.row) }">
          <span v-if="!cell.length" class="soft">none</span>
          <div
            v-else
            :class="{ long: line.row.fields[0] === 'abstract' }"
            :tabindex="line.row.fields[0] === 'abstract' ? 0 : undefined"
          >
            <template v-for="(piece, n) in cell" :key="n"
              ><u v-if="piece.differs" class="differs">{{ piece.text }}</u
              ><template v-else>{{ piece.text }}</template></template
            >
          </div>
          <button
            v-if="choosable && cell.length && !gives(copies[k]!, line.row) && line.texts[k] !== line.kept"
            class="link small choose"
            :aria-label="`Keep this ${line.row.label.toLowerCase()}, of copy ${k + 1}`"
            @click="emit('choose', copies[k]!.id, line.row)"
          >
            keep this
          </button>
        </td>
        <td v-if="evidence" class="num small weight" :class="(line.weight?.weight ?? 0) > 0.05 ? 'pro' : 'soft'">
          {{ line.weight && line.weight.says ? signed(line.weight.weight) : '' }}
          <div v-if="line.weight?.says" class="soft says">{{ line.weight.says }}</div>
        </td>
        <td class="small kept">
          {{ keptSays(line) }}
          <div v-if="choice(line.row)" class="soft">
            chosen by {{ choice(line.row)!.by }}
            <button v-if="choosable" class="link" @click="emit('unchoose', choice(line.row)!.id)">undo</button>
          </div>
        </td>
      </tr>
      <tr v-if="verdicts">
        <th scope="row">Decided</th>
        <td v-for="copy in copies" :key="copy.id" class="small">
          <div v-for="(v, n) in copy.verdicts" :key="n">
            Pass {{ v.pass_number }}: <b>{{ VERDICTS[v.verdict] ?? v.verdict }}</b>{{ v.reason ? `, ${v.reason}` : '' }}
            <span class="soft">by {{ v.by }}</span>
          </div>
          <span v-if="!copy.verdicts.length" class="soft">not decided</span>
        </td>
        <td v-if="evidence" />
        <td />
      </tr>
      <tr v-if="raw">
        <th scope="row">In the file</th>
        <td v-for="copy in copies" :key="copy.id" class="mono">{{ copy.raw }}</td>
        <td v-if="evidence" />
        <td />
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.copies {
  table-layout: fixed;
}
.label {
  width: 96px;
}
.copies th[scope='row'] {
  font-weight: 400;
  font-size: 13px;
  white-space: normal;
}
.copies thead th {
  white-space: normal;
  vertical-align: bottom;
}
.side {
  font-size: 14px;
  overflow-wrap: anywhere;
}
.gives {
  background: var(--ks-pine-wash);
}
.long {
  max-height: 140px;
  overflow: auto;
}
.pro {
  color: var(--ks-pine);
}
.weight {
  width: 132px;
}
.says {
  font-size: 11px;
  line-height: 14px;
}
.kept {
  width: 120px;
}
.choose {
  display: block;
  opacity: 0;
}
tr:hover .choose,
.choose:focus-visible {
  opacity: 1;
}
.number {
  display: inline-block;
  min-width: 16px;
  color: var(--ks-ink);
  font-weight: 600;
}
</style>
