import { useNavigate } from "react-router";

import { DayForm } from "./DayForm";

/** Plans the next day of a plan, and opens it. */
export function NewDay({ plan }: { plan: number }) {
  const navigate = useNavigate();
  return <DayForm plan={plan} done={(day) => void navigate(`/days/${day.id}`)} />;
}
