import { Component, type ReactNode } from 'react'

// Safe says what went wrong, where the page would otherwise be empty.
export class Safe extends Component<{ children: ReactNode }, { said: string | null }> {
  override state = { said: null }
  static getDerivedStateFromError = (e: unknown) => ({ said: e instanceof Error ? e.message : String(e) })
  override render() {
    if (this.state.said === null) return this.props.children
    return (
      <p className="problem" role="alert">
        Something went wrong on this page: {this.state.said}. Load it again; if that does not help, ask who sent it.
      </p>
    )
  }
}
