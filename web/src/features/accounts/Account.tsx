import { Button, Dropdown, Modal } from "antd";
import { useState } from "react";
import { Link } from "react-router";

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

const Browsers = whenOpened(
  () => import("./Browsers").then(({ Browsers }) => Browsers),
  () => <Loading what="your account" />,
);
const SecondFactor = whenOpened(
  () => import("./SecondFactor").then(({ SecondFactor }) => SecondFactor),
  () => <Loading what="your account" />,
);

const TITLES = {
  password: "Change password",
  factor: "Second factor",
  browsers: "Where you are logged in",
  tokens: "Access tokens",
  webhooks: "Webhooks",
} as const;
const NARROW: string[] = ["password", "factor"];
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
            { key: "factor", label: TITLES.factor },
            { key: "browsers", label: TITLES.browsers },
            { key: "tokens", label: TITLES.tokens },
            ...(person?.role === "administrator"
              ? [
                  { key: "webhooks", label: TITLES.webhooks },
                  { key: "people", label: <Link to="/people">People</Link> },
                ]
              : []),
            { key: "out", label: "Log out" },
          ],
          onClick: ({ key }) => {
            if (key in TITLES) setOpen(key as Part);
            if (key === "out") void logOut();
          },
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
        width={open && !NARROW.includes(open) ? 760 : undefined}
        destroyOnHidden
      >
        <>
          {open === "password" && <PasswordForm />}
          {open === "factor" && <SecondFactor />}
          {open === "browsers" && <Browsers />}
          {open === "tokens" && <Tokens />}
          {open === "webhooks" && <Webhooks />}
        </>
      </Modal>
    </>
  );
}
