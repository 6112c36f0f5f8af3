<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { ApiProblem, api, data } from '@/shared/api/client'
import { queryClient } from '@/shared/api/queries'
import type { AccountView, ResetView, Role } from '@/shared/api/types'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { loadSession, session } from '@/shared/session/session'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useAttempt } from '@/shared/useAttempt'
import SecretLink from './SecretLink.vue'
import InvitationPanel from './InvitationPanel.vue'
import SettingsPanel from './SettingsPanel.vue'

document.title = `${text.people.title} – Pruvex`
const accounts = useQuery({
  queryKey: ['accounts'],
  queryFn: async () => data(await api.GET('/api/v1/accounts')),
})
const rows = computed(() => accounts.data.value ?? [])
const roles = Object.entries(text.roles).map(([value, title]) => ({ value: value as Role, title }))
const saving = ref('')

async function put(id: string, version: number, role: Role, disabled: boolean): Promise<AccountView> {
  const at = { params: { path: { id }, header: { 'If-Match': `"${version}"` } } }
  const saved = data(await api.PUT('/api/v1/accounts/{id}', { ...at, body: { role, disabled } }))
  await queryClient.invalidateQueries({ queryKey: ['accounts'] })
  if (id === session.account?.id) await loadSession()
  return saved
}

async function change(account: AccountView, role: Role, disabled: boolean) {
  saving.value = account.id
  try {
    const saved = await put(account.id, account.version, role, disabled)
    const back = async () => void (await put(saved.id, saved.version, account.role, !!account.disabled_at))
    undoBar.offer(text.people.changed(account.name), back)
  } catch (cause) {
    if (!(cause instanceof ApiProblem)) throw cause
    const words = cause.fields.map((error) => `${error.message} ${error.remedy}`)
    undoBar.offer(words.length ? words.join(' ') : cause.message)
    await queryClient.invalidateQueries({ queryKey: ['accounts'] })
  } finally {
    saving.value = ''
  }
}

async function removeSecondStep({ id, name }: AccountView) {
  await attempt(async () => {
    await api.DELETE('/api/v1/accounts/{id}/second-step', { params: { path: { id } } })
    undoBar.offer(text.secondStep.removed(name))
  })
  await queryClient.invalidateQueries({ queryKey: ['accounts'] })
}

/** Those of the demonstration have no password. */
const isSample = ({ login }: AccountView) => session.demo && login.startsWith('sample-')
/** The link that was made last; it is not kept. */
const reset = ref<ResetView | null>(null)
const { failure, attempt } = useAttempt()
async function makeReset({ id }: AccountView) {
  reset.value = null
  await attempt(async () => {
    reset.value = data(await api.POST('/api/v1/accounts/{id}/reset', { params: { path: { id } } }))
  })
  await queryClient.invalidateQueries({ queryKey: ['mail'] })
}
</script>

<template>
  <div>
    <h1>{{ text.people.title }}</h1>
    <FailureNotice
      v-if="accounts.isError.value && !rows.length"
      :query="accounts"
      :title="text.people.failed"
    />
    <WaitLine v-else-if="accounts.isPending.value" />
    <table v-else class="accounts stacked">
      <thead>
        <tr>
          <th scope="col">{{ text.people.whom }}</th>
          <th scope="col">{{ text.people.login }}</th>
          <th scope="col">{{ text.people.role }}</th>
          <th scope="col">{{ text.people.access }}</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="account in rows"
          :key="account.id"
          :class="{ ended: account.disabled_at }"
          data-test="account-row"
        >
          <th scope="row" class="wrap-anywhere">
            {{ account.name }}
            <span v-if="account.id === session.account?.id" class="small muted">{{ text.people.you }}</span>
          </th>
          <td class="wrap-anywhere">
            {{ account.login }}
            <span v-if="account.second_step" class="mark small muted">{{ text.secondStep.mark }}</span>
          </td>
          <td>
            <v-select
              class="role"
              :model-value="account.role"
              :items="roles"
              :aria-label="text.people.roleOf(account.name)"
              :disabled="saving === account.id"
              variant="underlined"
              density="compact"
              hide-details
              @update:model-value="change(account, $event, !!account.disabled_at)"
            />
          </td>
          <td>
            <span class="state">{{ account.disabled_at ? text.people.ended : text.people.open }}</span>
            <v-btn
              :disabled="saving === account.id"
              @click="change(account, account.role, !account.disabled_at)"
            >
              {{ account.disabled_at ? text.people.giveBack : text.people.end }}
            </v-btn>
            <v-btn
              v-if="!account.disabled_at && account.id !== session.account?.id && !isSample(account)"
              variant="text"
              :aria-label="text.people.resetOf(account.name)"
              data-test="make-reset"
              @click="makeReset(account)"
              >{{ text.people.reset }}</v-btn
            >
            <v-btn
              v-if="account.second_step && account.id !== session.account?.id"
              variant="text"
              :aria-label="text.secondStep.removeOf(account.name)"
              data-test="remove-second-step"
              @click="removeSecondStep(account)"
              >{{ text.secondStep.remove }}</v-btn
            >
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
    <SecretLink
      v-if="reset?.path"
      :path="reset.path"
      :about="text.people.resetOnce(reset.name)"
      test="reset-link"
    />
    <SettingsPanel />
    <InvitationPanel />
  </div>
</template>

<style scoped>
.accounts {
  width: 100%;
  margin: 14px 0 30px;
  border-collapse: collapse;
}
.accounts th,
.accounts td {
  padding: 8px 14px 8px 0;
  border-bottom: 1px solid var(--line);
  text-align: left;
  font-weight: 400;
}
.accounts thead th {
  color: var(--muted);
  font-size: 0.8125rem;
}
.accounts tbody th {
  font-weight: 600;
}
.ended th,
.ended td {
  color: var(--muted);
}
.mark {
  display: block;
}
.role {
  min-width: 165px;
}
.state {
  display: inline-block;
  min-width: 70px;
}
</style>
