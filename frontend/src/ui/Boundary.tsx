import { Component, type ErrorInfo, type ReactNode } from 'react';

interface Props {
  /** What is shown here, for the message. */
  what: string;
  children: ReactNode;
}

/** Keeps an error in one part of the page from taking the rest along; what was typed elsewhere stays. */
export class Boundary extends Component<Props, { error: Error | null }> {
  state: { error: Error | null } = { error: null };

  static getDerivedStateFromError(error: unknown) {
    return { error: error instanceof Error ? error : new Error(String(error)) };
  }

  componentDidCatch(error: Error, info: ErrorInfo) {
    console.error(error, info.componentStack);
  }

  render() {
    if (!this.state.error) return this.props.children;
    return (
      <div role="alert" className="border-l-4 border-copper pl-3">
        <p className="font-semibold text-copper">{this.props.what} cannot be shown just now.</p>
        <p className="quiet">
          Nothing that was saved or that waits on this device is lost. Try this part again; if it stays like this, load the page anew. What it says of itself:{' '}
          <span className="mono">{this.state.error.message}</span>
        </p>
        <p className="mt-2 flex gap-4">
          <button type="button" className="button" onClick={() => this.setState({ error: null })}>
            Try again
          </button>
          <button type="button" className="link-button" onClick={() => window.location.reload()}>
            load the page anew
          </button>
        </p>
      </div>
    );
  }
}
