import { register } from 'node:module'
import { GlobalRegistrator } from '@happy-dom/global-registrator'

// A page is there before Vue is loaded: it looks for one when it is.
GlobalRegistrator.register({ url: 'http://127.0.0.1/e/1/estate', width: 1280, height: 800 })
// What the page of the tests lacks, and components ask for.
Object.assign(globalThis, {
  visualViewport: Object.assign(new EventTarget(), { scale: 1, width: 1280, height: 800, offsetLeft: 0, offsetTop: 0 }),
})
register('./hooks.mjs', import.meta.url)
const { mount } = await import('@vue/test-utils')
const { createPinia, setActivePinia } = await import('pinia')
const { createMemoryHistory, createRouter } = await import('vue-router')
const { createVuetify } = await import('vuetify')
const components = await import('vuetify/components')
const { texts } = await import('../../src/messages/index.ts')

type Component = Parameters<typeof mount>[0]

/** A component of the product, compiled as it is. @param path below `src` */
export async function component(path: string): Promise<Component> {
  return ((await import(`../../src/${path}`)) as { default: Component }).default
}

/** Answers of a server that knows a few addresses; what it is asked is kept. */
export interface Served {
  readonly asked: { readonly method: string; readonly path: string; readonly body: unknown }[]
  stop(): void
}

/** An answer that refuses the fields of a body, by their names. */
export class Refusal {
  readonly error = 'The request is not valid.'
  readonly fields: readonly { readonly field: string; readonly message: string }[]
  constructor(faults: Readonly<Record<string, string>>) {
    this.fields = Object.entries(faults).map(([field, message]) => ({ field, message }))
  }
}

/** @param answers by method and address, such as `GET /api/engagements/1/views`; a function answers each time anew */
export function serve(answers: Readonly<Record<string, unknown>>): Served {
  const real = globalThis.fetch
  const asked: Served['asked'] = []
  globalThis.fetch = (async (address: string, init?: RequestInit) => {
    const [path = ''] = String(address).split('?')
    const method = init?.method ?? 'GET'
    asked.push({ method, path, body: typeof init?.body === 'string' ? JSON.parse(init.body) : undefined })
    const key = `${method} ${path}`
    const known = answers[key]
    const answer: unknown = typeof known === 'function' ? (known as () => unknown)() : known
    return new Response(JSON.stringify(key in answers ? answer : { error: `nobody answers ${key}` }), {
      status: answer instanceof Refusal ? 400 : key in answers ? 200 : 404,
    })
  }) as typeof fetch
  return { asked, stop: () => (globalThis.fetch = real) }
}

/**
 * Mounts a component in a page of its own, with router, stores and texts as in the product.
 * @param options.at the address of the page
 * @param options.route how the address is read, such as `/e/:engagement/estate/:device`
 */
export async function shown(
  tested: Component,
  {
    props = {},
    slots = {},
    at = '/e/1/estate',
    route = '/:rest(.*)*',
  }: { props?: object; slots?: object; at?: string; route?: string } = {},
) {
  const pinia = createPinia()
  setActivePinia(pinia)
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [...new Set([route, '/:rest(.*)*'])].map((path) => ({ path, component: { template: '<div />' } })),
  })
  await router.push(at)
  document.body.innerHTML = ''
  const vuetify = createVuetify({ components, defaults: { VDialog: { transition: false } } })
  const wrapper = mount(tested, {
    props: props as never,
    slots: slots as never,
    attachTo: document.body,
    global: { plugins: [pinia, router, vuetify, texts] },
  })
  await settled()
  return { wrapper, router }
}

/** Waits until what follows from what was done is on the page. */
export async function settled(): Promise<void> {
  for (let turns = 0; turns < 8; turns++) await new Promise((resolve) => setTimeout(resolve, 0))
}

/** Somebody who may do everything, in the engagement that is open. */
export async function asLead(): Promise<void> {
  const { useEngagement } = await import('../../src/stores/engagement.ts')
  useEngagement().view = { id: 0, role: 'lead' } as never
  await settled()
}
