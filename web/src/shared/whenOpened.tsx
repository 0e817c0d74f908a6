import { useEffect, useState, type ComponentType, type ReactNode } from "react";

import { Loading } from "./States";

/**
 * A page that is fetched when it is opened, with what stands in its place meanwhile. One that was fetched before, by
 * `fetch`, is drawn at once. React's own waiting (Suspense) would show what it had to wait for a third of a second late.
 */
export function whenOpened<Props extends object>(
  load: () => Promise<ComponentType<Props>>,
  meanwhile: (props: Props) => ReactNode = () => <Loading what="the page" />,
) {
  let loaded: ComponentType<Props> | null = null;
  async function fetch() {
    loaded = await load();
    return loaded;
  }
  function Page(props: Props) {
    const [Chosen, choose] = useState<ComponentType<Props> | null>(() => loaded);
    const [failure, fail] = useState<unknown>(null);
    useEffect(() => {
      if (!Chosen) fetch().then((came) => choose(() => came), fail);
    }, [Chosen]);
    if (failure) throw failure as Error; // the boundary around it says what to do
    return Chosen ? <Chosen {...props} /> : meanwhile(props);
  }
  return Object.assign(Page, { fetch });
}
