import { useEffect, useMemo, useState } from "react";
import { useNavigate } from "react-router";

import { useSession } from "./features/accounts/session";
import { filesOf, type Dropped } from "./shared/dropped";

/** Files that are dropped anywhere lead to the import, which takes them. */
export function useDropped(): Dropped {
  const [files, setFiles] = useState<File[]>([]);
  const navigate = useNavigate();
  const mayWrite = useSession().person?.may_write === true;
  useEffect(() => {
    const over = (event: DragEvent) => {
      if (event.dataTransfer?.types.includes("Files")) event.preventDefault(); // else the browser would open them
    };
    const drop = (event: DragEvent) => {
      over(event);
      if (!mayWrite || !event.dataTransfer?.types.includes("Files")) return;
      void filesOf(event.dataTransfer).then((found) => {
        setFiles(found);
        void navigate("/import");
      });
    };
    window.addEventListener("dragover", over);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", over);
      window.removeEventListener("drop", drop);
    };
  }, [mayWrite, navigate]);
  return useMemo(() => ({ files, clear: () => setFiles([]) }), [files]);
}
