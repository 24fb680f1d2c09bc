<script setup lang="ts">
import { computed, nextTick, useTemplateRef } from 'vue'
import type { AnswerOf } from '#core/questions/kinds'
import { lineOf } from '#core/text/rich-text'
import { RichText } from '../RichText'
import type { FieldProps } from './fields'

const props = defineProps<FieldProps<'order'>>()
const emit = defineEmits<{ answer: [answer: AnswerOf<'order'>] }>()
const list = useTemplateRef<HTMLElement>('list')

const order = computed(() => props.answer?.order ?? props.open.choices.map((c) => c.id))
const rows = computed(() => order.value.flatMap((id) => props.open.choices.find((c) => c.id === id) ?? []))
const rightAt = (id: string) => (props.told ? props.told.right.indexOf(id) + 1 : 0)

async function move(id: string, by: number, button: string): Promise<void> {
  const from = order.value.indexOf(id)
  const to = from + by
  if (to < 0 || to >= order.value.length) return
  const next = [...order.value]
  next.splice(to, 0, ...next.splice(from, 1))
  emit('answer', { kind: 'order', order: next })
  // The button moves with its row; at an end it is off, and the other one takes over.
  await nextTick()
  const row = list.value?.querySelectorAll('li')[to]
  const same = row?.querySelector<HTMLButtonElement>(`.${button}:enabled`)
  ;(same ?? row?.querySelector<HTMLButtonElement>('button:enabled'))?.focus()
}
</script>

<template>
  <ol ref="list" class="order">
    <li v-for="(c, i) in rows" :key="c.id" :class="{ right: told && rightAt(c.id) === i + 1 }">
      <RichText :text="c.text" flat />
      <span v-if="told" class="verdict">{{ rightAt(c.id) === i + 1 ? 'right' : `belongs at ${rightAt(c.id)}` }}</span>
      <span v-else class="move">
        <button
          type="button"
          class="up"
          :disabled="disabled || i === 0"
          :aria-label="`Move up: ${lineOf(c.text)}`"
          @click="move(c.id, -1, 'up')"
        >
          ↑
        </button>
        <button
          type="button"
          class="down"
          :disabled="disabled || i === rows.length - 1"
          :aria-label="`Move down: ${lineOf(c.text)}`"
          @click="move(c.id, 1, 'down')"
        >
          ↓
        </button>
      </span>
    </li>
  </ol>
</template>
