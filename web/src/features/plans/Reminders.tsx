import { Link } from "react-router";

import { useReminders } from "./queries";

/** Questions that have no baseline yet: a change now would cost them their "before". */
export function Reminders({ car }: { car: number }) {
  const reminders = useReminders(car);
  return (
    <>
      {reminders.data?.map((each) => (
        <p className="flag caution" key={each.plan}>
          Before you change this car: <Link to={`/plans/${each.plan}`}>{each.question}</Link> has no baseline.{" "}
          {each.sentence}
        </p>
      ))}
    </>
  );
}
