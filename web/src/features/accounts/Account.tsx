import { Button, Dropdown, Modal } from "antd";
import { useState } from "react";

import { Loading } from "../../shared/States";
import { whenOpened } from "../../shared/whenOpened";
import { useSession } from "./session";

const PasswordForm = whenOpened(
  () => import("./PasswordForm").then(({ PasswordForm }) => PasswordForm),
  () => <Loading what="your account" />,
);
const Tokens = whenOpened(
  () => import("./Tokens").then(({ Tokens }) => Tokens),
  () => <Loading what="your account" />,
);
const Webhooks = whenOpened(
  () => import("./Webhooks").then(({ Webhooks }) => Webhooks),
  () => <Loading what="your account" />,
);

const TITLES = { password: "Change password", tokens: "Access tokens", webhooks: "Webhooks" } as const;
type Part = keyof typeof TITLES;

/** Who is logged in, with what they can do about that. */
export function Account() {
  const { person, logOut } = useSession();
  const [open, setOpen] = useState<Part | null>(null);
  return (
    <>
      <Dropdown
        trigger={["click"]}
        menu={{
          items: [
            { key: "role", label: `Role: ${person?.role}`, disabled: true },
            { key: "password", label: TITLES.password },
            { key: "tokens", label: TITLES.tokens },
            ...(person?.role === "administrator" ? [{ key: "webhooks", label: TITLES.webhooks }] : []),
            { key: "out", label: "Log out" },
          ],
          onClick: ({ key }) => (key in TITLES ? setOpen(key as Part) : void logOut()),
        }}
      >
        <Button type="text" aria-label={`Account of ${person?.username}`}>
          {person?.username} ▾
        </Button>
      </Dropdown>
      <Modal
        title={open && TITLES[open]}
        open={open !== null}
        onCancel={() => setOpen(null)}
        footer={null}
        width={open === "password" ? undefined : 760}
        destroyOnHidden
      >
        <>
          {open === "password" && <PasswordForm />}
          {open === "tokens" && <Tokens />}
          {open === "webhooks" && <Webhooks />}
        </>
      </Modal>
    </>
  );
}
