import { Component, type ReactNode } from 'react'
import { Button } from './controls'

// Boundary keeps the page when a part of it breaks, and says what happened.
export class Boundary extends Component<{ children: ReactNode; name: string }, { error: Error | null }> {
  override state: { error: Error | null } = { error: null }

  static getDerivedStateFromError(error: Error) {
    return { error }
  }

  override render() {
    const { error } = this.state
    if (!error) return this.props.children
    return (
      <div role="alert" className="m-6 max-w-[60ch] border-l-4 border-signal bg-signal-soft px-4 py-3">
        <p className="font-semibold">{this.props.name} could not be shown.</p>
        <p className="mt-1">Everything that you have done is saved. {error.message}</p>
        <Button className="mt-3" onClick={() => this.setState({ error: null })}>
          Try again
        </Button>
      </div>
    )
  }
}
