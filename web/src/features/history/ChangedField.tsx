import { fieldLabel, kindOfField, withUnit, type Family } from "../../shared/units";

interface Props {
  field: { name: string; old?: unknown; new?: unknown };
  family: Family;
}

/** A field from what it was to what it is, in the units of the page. */
export function ChangedField({ field, family }: Props) {
  return (
    <div>
      {fieldLabel(field.name)}: {written(field.name, field.old, family)} →{" "}
      {written(field.name, field.new, family)}
    </div>
  );
}

function written(name: string, value: unknown, family: Family): string {
  const kind = kindOfField(name);
  if (kind && typeof value === "number") return withUnit(value, kind, family);
  if (value === null || value === undefined || value === "") return "empty";
  if (typeof value === "boolean") return value ? "yes" : "no";
  return typeof value === "object" ? JSON.stringify(value) : String(value as string | number);
}
