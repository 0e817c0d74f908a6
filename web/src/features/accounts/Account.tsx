import { Button, Dropdown, Modal } from "antd";
import { lazy, Suspense, useState } from "react";

import { Loading } from "../../shared/States";
import { useSession } from "./session";

const PasswordForm = lazy(() => import("./PasswordForm").then((part) => ({ default: part.PasswordForm })));
const Tokens = lazy(() => import("./Tokens").then((part) => ({ default: part.Tokens })));

/** Who is logged in, with what they can do about that. */
export function Account() {
  const { person, logOut } = useSession();
  const [open, setOpen] = useState<"password" | "tokens" | null>(null);
  return (
    <>
      <Dropdown
        trigger={["click"]}
        menu={{
          items: [
            { key: "role", label: `Role: ${person?.role}`, disabled: true },
            { key: "password", label: "Change password" },
            { key: "tokens", label: "Access tokens" },
            { key: "out", label: "Log out" },
          ],
          onClick: ({ key }) => (key === "password" || key === "tokens" ? setOpen(key) : void logOut()),
        }}
      >
        <Button type="text" aria-label={`Account of ${person?.username}`}>
          {person?.username} ▾
        </Button>
      </Dropdown>
      <Modal
        title={open === "tokens" ? "Access tokens" : "Change password"}
        open={open !== null}
        onCancel={() => setOpen(null)}
        footer={null}
        width={open === "tokens" ? 760 : undefined}
        destroyOnHidden
      >
        <Suspense fallback={<Loading what="your account" />}>
          {open === "password" && <PasswordForm />}
          {open === "tokens" && <Tokens />}
        </Suspense>
      </Modal>
    </>
  );
}
