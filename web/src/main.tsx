import './app.css'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { Tooltip } from 'radix-ui'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { App } from './App'
import { report, state } from './stage/report'

// For tests and for whoever looks for a mistake.
Object.assign(window, { slowReveal: { report, state } })

const client = new QueryClient({ defaultOptions: { queries: { retry: 1, staleTime: 2000 } } })

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <Tooltip.Provider>
        <App />
      </Tooltip.Provider>
    </QueryClientProvider>
  </StrictMode>,
)
