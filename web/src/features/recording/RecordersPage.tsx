import { Button, Modal } from "antd";
import { useState } from "react";
import { Link } from "react-router";

import { Facts } from "../../shared/Facts";
import { useTitle } from "../../shared/useTitle";
import { Failed, Loading } from "../../shared/States";
import { useSession } from "../accounts/session";
import { useDevices } from "./devices";
import { HeadsUpForm } from "./HeadsUpForm";
import { useRecorders, type Recorder } from "./queries";
import { RecorderForm } from "./RecorderForm";
import { Unstored } from "./Unstored";

/** The test cars that can be recorded, and what each records for. */
export function RecordersPage() {
  useTitle("Record");
  const recorders = useRecorders();
  const { person } = useSession();
  const devices = useDevices();
  const named = (id: number | null | undefined) =>
    devices.data?.find((device) => device.id === id)?.name ?? "none";
  const [editing, setEditing] = useState<Recorder | "new" | null>(null);
  if (recorders.error) return <Failed error={recorders.error} retry={() => void recorders.refetch()} />;
  if (!recorders.data) return <Loading what="the recorders" />;
  return (
    <>
      <div className="page-head">
        <h1>Record</h1>
        <Link className="push" to="/devices">
          Devices
        </Link>
        {person?.may_write && <Button onClick={() => setEditing("new")}>Add a recorder</Button>}
      </div>
      {recorders.data.length === 0 && (
        <section className="sheet">
          <p>
            A recorder is a test car with its GPS receiver, plus CAN and a weather station if you have them.
            Add one, open it on the laptop in the car, and press Enter.
          </p>
        </section>
      )}
      <Unstored />
      {recorders.data.map((recorder) => (
        <section key={recorder.id} className="sheet" aria-label={recorder.name}>
          <div className="page-head close">
            <h2>
              <Link to={`/record/${recorder.id}`}>{recorder.name}</Link>
            </h2>
            <strong>{recorder.wanted ? "recording" : "off"}</strong>
            {person?.may_write && (
              <Button
                className="push"
                onClick={() => setEditing(recorder)}
                aria-label={`Edit ${recorder.name}`}
              >
                Edit
              </Button>
            )}
          </div>
          <Facts
            wide
            rows={[
              ["Car and setup", `${recorder.car_name}, ${recorder.setup_name}`],
              ["Day", recorder.question ?? "none; runs go to the setup"],
              ["Course", recorder.course_name ?? "none"],
              ["GPS receiver", named(recorder.receiver)],
              ["CAN", named(recorder.can)],
              ["Weather station", named(recorder.weather_station)],
            ]}
          />
          {recorder.trouble && <p className="flag caution">{recorder.trouble}</p>}
        </section>
      ))}
      {recorders.data.length > 1 && person?.may_write && <HeadsUpForm recorders={recorders.data} />}
      <Modal
        title={editing === "new" ? "Add a recorder" : "Edit recorder"}
        open={editing !== null}
        onCancel={() => setEditing(null)}
        footer={null}
        destroyOnHidden
        width={760}
      >
        <RecorderForm
          {...(editing && editing !== "new" ? { recorder: editing } : {})}
          done={() => setEditing(null)}
        />
      </Modal>
    </>
  );
}
