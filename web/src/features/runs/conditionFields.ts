import type { Kind } from "../../shared/units";
import type { Run } from "./queries";

export interface ConditionField {
  name: keyof Run;
  label: string;
  kind?: Kind;
  choices?: string[];
  yesNo?: boolean;
}

/** Everything that can be recorded about a run, in the order of asking. */
export const CONDITION_FIELDS: ConditionField[] = [
  { name: "charge_before_percent", label: "Charge before", kind: "percent" },
  { name: "charge_after_percent", label: "Charge after", kind: "percent" },
  { name: "battery_temp_before_c", label: "Battery before", kind: "temperature" },
  { name: "battery_temp_after_c", label: "Battery after", kind: "temperature" },
  { name: "drive_mode", label: "Drive mode" },
  { name: "launch_aid", label: "Launch aid", yesNo: true },
  { name: "climate_on", label: "Climate", yesNo: true },
  { name: "occupants", label: "Occupants", kind: "plain" },
  { name: "load_kg", label: "Load", kind: "mass" },
  { name: "direction", label: "Direction", choices: ["out", "back"] },
  { name: "driver", label: "Driver" },
  { name: "receiver", label: "Receiver" },
  { name: "receiver_mount", label: "Receiver mount" },
  { name: "outside_temp_c", label: "Outside", kind: "temperature" },
  { name: "pressure_hpa", label: "Air pressure", kind: "air" },
  { name: "humidity_percent", label: "Humidity", kind: "percent" },
  { name: "wind_mps", label: "Wind", kind: "speed" },
  { name: "wind_from_deg", label: "Wind from", kind: "angle" },
  {
    name: "surface",
    label: "Surface",
    choices: ["dry asphalt", "damp asphalt", "wet asphalt", "concrete", "prepared strip"],
  },
  { name: "surface_temp_c", label: "Surface temperature", kind: "temperature" },
  { name: "brake_temp_c", label: "Brakes", kind: "temperature" },
  { name: "odometer_km", label: "Odometer", kind: "odometer" },
];
