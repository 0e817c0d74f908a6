import { useCourses } from "./queries";

/** Every course, for choosing one. */
export function useCourseOptions(): { value: number; label: string }[] {
  const courses = useCourses();
  return courses.data?.map((each) => ({ value: each.id, label: `${each.name}, ${each.direction}` })) ?? [];
}
