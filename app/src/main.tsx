import createCache from '@emotion/cache'
import { CacheProvider } from '@emotion/react'
import '@fontsource/source-code-pro/400.css'
import '@fontsource/source-sans-3/400.css'
import '@fontsource/source-sans-3/600.css'
import '@fontsource/source-serif-4/600.css'
import { tidy } from '@sober-prism/engine'
import { createRoot } from 'react-dom/client'
import { Provider } from 'react-redux'
import { App } from './app'
import { store } from './store/store'
import './base.css'

// The server names a nonce per page, with which the components' style elements are allowed.
const nonce = document.querySelector<HTMLMetaElement>('meta[property="csp-nonce"]')?.nonce
const styles = createCache({ key: 'mui', nonce, prepend: true })

const root = document.getElementById('root')
if (!root) throw new Error('The page has no root element.')
createRoot(root).render(
  <CacheProvider value={styles}>
    <Provider store={store}>
      <App />
    </Provider>
  </CacheProvider>,
)

// Once, when the page has time: storage that nothing uses any more is given back.
requestIdleCallback(() => void tidy().catch(() => {}), { timeout: 10_000 })
