import { Button } from "antd";
import { Component, type ReactNode } from "react";

interface Props {
  /** What changes when another page is opened: that takes an error away. */
  place: string;
  children: ReactNode;
}

/** Keeps a page that broke from taking the frame with it, and says what to do. */
export class ErrorBoundary extends Component<Props, { error: Error | null; place: string }> {
  override state = { error: null as Error | null, place: this.props.place };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  static getDerivedStateFromProps(props: Props, state: { error: Error | null; place: string }) {
    return props.place === state.place ? null : { error: null, place: props.place };
  }

  override render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    const outdated = /dynamically imported module|Importing a module|module script/i.test(error.message);
    return (
      <div className="sheet" role="alert">
        <h2>{outdated ? "Coombe was upgraded" : "Something went wrong on this page"}</h2>
        <p>
          {outdated
            ? "This page is from the previous version. Reload to continue; everything you saved is still there."
            : `Reload to continue; everything you saved is still there. The browser says: ${error.message}`}
        </p>
        <Button type="primary" onClick={() => window.location.reload()}>
          Reload
        </Button>
      </div>
    );
  }
}
