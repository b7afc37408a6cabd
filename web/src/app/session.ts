import { ref } from 'vue'
import { ask, client, Problem, type Me } from '@/api/client'
import { forgetOthersDrafts, ownDrafts } from '@/ui/drafts'
import { writing } from '@/ui/writing'

const me = ref<Me | null>(null)
const looked = ref(false)
const away = ref(false)

function here(someone: Me) {
  ownDrafts(someone.id)
  me.value = someone
  Object.assign(writing, someone.writing)
}

/** Who is signed in at this desk. */
export function useSession() {
  async function look() {
    try {
      here(await ask(client.GET('/api/session')))
      away.value = false
    } catch (error) {
      me.value = null
      away.value = error instanceof Problem && error.status !== 401
    }
    looked.value = true
  }

  async function signIn(login: string, password: string) {
    here(await ask(client.POST('/api/session', { body: { login, password } })))
  }

  async function signOut() {
    await ask(client.DELETE('/api/session'))
    if (me.value) forgetOthersDrafts(me.value.id)
    me.value = null
  }

  function lost() {
    me.value = null
  }

  return { me, looked, away, look, signIn, signOut, lost }
}
