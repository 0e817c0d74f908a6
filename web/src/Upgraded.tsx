import { Button } from "antd";
import { useEffect, useState } from "react";

import { UPGRADED } from "./api/client";

/** Over a page that was opened before the server was upgraded. What is typed stays until its reader reloads. */
export function Upgraded() {
  const [seen, setSeen] = useState(false);
  useEffect(() => {
    const notice = () => setSeen(true);
    window.addEventListener(UPGRADED, notice);
    return () => window.removeEventListener(UPGRADED, notice);
  }, []);
  if (!seen) return null;
  return (
    <div className="notice" role="status">
      Coombe was upgraded. Save what you typed, then reload.{" "}
      <Button size="small" onClick={() => window.location.reload()}>
        Reload
      </Button>
    </div>
  );
}
