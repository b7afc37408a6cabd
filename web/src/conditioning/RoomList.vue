<script setup lang="ts">
import { t } from '@/ui/words'
import type { Schemas } from '@/api/client'
import ActButton from '@/ui/ActButton.vue'

/** The enclosures, how much hangs in each, and how it is in there. */
type Room = Schemas['EnclosureView']
defineProps<{ rooms: Room[]; open: number | null; mayAdd: boolean }>()
defineEmits<{ pick: [id: number]; add: [] }>()
const hanging = (room: Room) => room.groups.reduce((sum, group) => sum + group.specimens.length, 0)
</script>

<template>
  <ul>
    <li v-for="room in rooms" :key="room.id">
      <ActButton
        kind="plain"
        :class="{ open: open === room.id }"
        :aria-pressed="open === room.id"
        @click="$emit('pick', room.id)"
      >
        <span class="name">{{ room.name }}</span>
        <span class="mono count" :class="{ some: hanging(room) }">{{ hanging(room) || '' }}</span>
        <span class="mono small" :class="room.in_tolerance === false ? 'bad' : 'quiet'">{{
          room.line_message
            ? t('conditioning.logger-silent')
            : room.reads || t('conditioning.no-log')
        }}</span>
      </ActButton>
    </li>
    <li v-if="mayAdd">
      <ActButton @click="$emit('add')">{{ t('conditioning.add-room') }}</ActButton>
    </li>
  </ul>
</template>

<style scoped>
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

li .plain {
  display: grid;
  grid-template-columns: 1fr auto;
  width: 100%;
  min-height: 56px;
  align-content: center;
  padding: 6px 10px 6px 12px;
  border-bottom: 1px solid var(--hair);
  border-left: 4px solid transparent;
  line-height: 1.25;
  text-align: left;
}

li .open {
  border-left-color: var(--blue);
  background: var(--sunk);
}

.name {
  font-weight: 600;
}

.count.some {
  font-weight: 700;
}
</style>
