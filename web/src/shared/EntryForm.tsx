import { Button, Form, type FormInstance } from "antd";
import { useState, type ReactNode } from "react";

import { ApiError } from "../api/client";
import { Refused } from "./fields";
import { Questions } from "./Questions";
import { SaveError, type Save } from "./SaveError";
import { useQuestions } from "./useQuestions";

interface Props<Values, Given, Saved> {
  form?: FormInstance<Values>;
  /** What stands in the fields at first. */
  first: object;
  save: Save<Given, Saved> & { isPending: boolean };
  /** What is sent of what the fields hold. */
  sent: (values: Values) => Given;
  done: (saved: Saved) => void;
  submit: string;
  onChange?: (changed: Partial<Values>) => void;
  /** The run that the values are of, for questions about what looks like a slip. */
  run?: number;
  /** Beside the button that saves. */
  beside?: ReactNode;
  children: ReactNode;
}

/** Fields, what the server refused at the field or below them, and the button that saves. */
export function EntryForm<Values extends object, Given extends object, Saved>(
  props: Props<Values, Given, Saved>,
) {
  const { first, save, sent, done, submit, onChange, run, beside, children } = props;
  const [form] = Form.useForm<Values>(props.form);
  const [typed, setTyped] = useState<Record<string, unknown>>({});
  const questions = useQuestions(typed, run);
  const changed = (values: object) => {
    setTyped((before) => ({ ...before, ...values }));
    onChange?.(values as Partial<Values>);
  };
  const accept = (field: string, value: number) => {
    const meant = { [field]: value };
    form.setFieldsValue(meant as Parameters<typeof form.setFieldsValue>[0]);
    changed(meant);
  };
  const refused = save.error instanceof ApiError ? save.error.fields : {};
  const names = Object.keys(refused);
  const atFields = names.length > 0 && names.every((name) => name in (form.getFieldsValue() as object));
  return (
    <Refused.Provider value={refused}>
      <Form<Values>
        form={form}
        layout="vertical"
        initialValues={first}
        onValuesChange={changed}
        onFinish={(values) => save.mutate(sent(values), { onSuccess: done })}
      >
        {children}
        <div className="form-end">
          <Questions questions={questions} accept={accept} />
          <SaveError save={save} done={done} atFields={atFields} />
          <Button type="primary" htmlType="submit" loading={save.isPending}>
            {submit}
          </Button>{" "}
          {beside}
        </div>
      </Form>
    </Refused.Provider>
  );
}
