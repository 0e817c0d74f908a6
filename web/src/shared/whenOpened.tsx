import { lazy, useState, type ComponentType } from "react";

/**
 * A page that is fetched when it is opened. One that was fetched before, by `fetch`, is drawn at once: React shows what
 * it had to wait for a third of a second late.
 */
export function whenOpened<Props extends object>(load: () => Promise<ComponentType<Props>>) {
  let loaded: ComponentType<Props> | null = null;
  async function fetch() {
    loaded = await load();
    return { default: loaded };
  }
  const Waiting = lazy(fetch) as unknown as ComponentType<Props>;
  function Page(props: Props) {
    const [Chosen] = useState<ComponentType<Props>>(() => loaded ?? Waiting);
    return <Chosen {...props} />;
  }
  return Object.assign(Page, { fetch });
}
