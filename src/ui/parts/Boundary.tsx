'use client';
/** Keeps a mistake of ours in one part of the page from taking the rest away, and says what to do. */
import { TriangleAlert } from 'lucide-react';
import { Component, type CSSProperties, type ReactNode } from 'react';

interface BoundaryProps {
  /** What is inside, for people: “the signal path”. */
  readonly name: string;
  /** Another one gives what is inside a fresh start: the address of the page, the tag that is shown. */
  readonly of?: string;
  /** Small parts, such as one element of a panel, say it in a few words, at their place. */
  readonly small?: { readonly className: string; readonly style: CSSProperties };
  readonly children: ReactNode;
}

export class Boundary extends Component<BoundaryProps, { readonly failed: string | null }> {
  override state: { readonly failed: string | null } = { failed: null };

  static getDerivedStateFromError(error: unknown): { readonly failed: string } {
    return { failed: error instanceof Error ? error.message : String(error) };
  }

  override componentDidUpdate(before: BoundaryProps): void {
    if (this.state.failed !== null && before.of !== this.props.of) this.setState({ failed: null });
  }

  override render(): ReactNode {
    const { failed } = this.state;
    const { name, small, children } = this.props;
    if (failed === null) return children;
    const again = (): void => this.setState({ failed: null });
    if (small)
      return (
        <button
          type="button"
          className={`border-error is-bad rounded-md border border-dashed px-3 py-2 text-left ${small.className}`}
          style={small.style}
          onClick={again}
        >
          ✕ no value: {name} could not be drawn. Press to try again.
        </button>
      );
    return (
      <section role="alert" data-failed={name} className="card-flat flex flex-col gap-2 p-4">
        <h2 className="is-bad flex items-center gap-2 font-semibold">
          <TriangleAlert size={16} aria-hidden /> This part of the page has failed: {name}
        </h2>
        <p>
          Everything else goes on, and nothing was written or lost. Try again; if it fails again, undo your last change or reload the page, and tell
          us what you did.
        </p>
        <p className="quiet num text-xs break-all">{failed.slice(0, 300)}</p>
        <div className="flex gap-2">
          <button type="button" className="btn btn-sm btn-primary" onClick={again}>
            Try again
          </button>
          <button type="button" className="btn btn-sm btn-ghost" onClick={() => location.reload()}>
            Reload the page
          </button>
        </div>
      </section>
    );
  }
}
