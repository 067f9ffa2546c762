import { QueryCache, QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { BrowserRouter } from 'react-router'
import { BASE } from './api/base'
import { ProblemError } from './api/client'
import { App } from './app'
import './theme.css'
import { applyTheme, chosenTheme } from './shell/theme'

applyTheme(chosenTheme())

const client = new QueryClient({
  queryCache: new QueryCache({
    // Signed out, here or elsewhere: who is here is asked anew, and the page goes to where one signs in.
    onError: (error, query) => {
      if (error instanceof ProblemError && error.problem.status === 401 && query.queryKey[1] !== 'me')
        void client.invalidateQueries({ queryKey: ['people', 'me'] })
    },
  }),
  defaultOptions: {
    queries: {
      refetchOnWindowFocus: true,
      // The server is on this machine, whatever becomes of the net.
      networkMode: 'always',
      staleTime: 5_000,
      // Only silence is worth another try: what the server refused it would refuse again.
      retry: (count, error) => error instanceof ProblemError && error.problem.status === 0 && count < 20,
      retryDelay: 1_500,
    },
  },
})

const root = document.getElementById('root')
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <BrowserRouter useTransitions={false} basename={BASE}>
          <App />
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  )
}
