import { fireEvent, screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { type Pace, paceOf } from "../../../core/pace";
import { showEditing } from "../../../test-show";
import { PaceForm } from "./PaceForm";

const ZONES = [{ key: "clock", label: "Clock" }];

const edit = (first: Partial<Pace> = {}) =>
  showEditing<Pace>({ ...paceOf({ batch_size: 50, gap_seconds: 60 }), ...first }, (pace, onPace) => (
    <PaceForm
      pace={pace}
      zones={ZONES}
      refused={() => undefined}
      onChange={(change) => onPace({ ...pace, ...change })}
    />
  ));
const type = (label: string | RegExp, text: string) =>
  fireEvent.change(screen.getByLabelText(label), { target: { value: text } });
const press = (name: string) => fireEvent.click(screen.getByRole("button", { name }));
const pressed = () =>
  screen
    .getAllByRole("button", { pressed: true })
    .map((one) => one.textContent?.slice(0, 2))
    .join(" ");

describe("a pace in its form", () => {
  it("has no window until a day or an hour is taken away, and none again when all are back", () => {
    const { latest } = edit();
    expect(pressed()).toBe("Mo Tu We Th Fr Sa Su");
    press("Saturday");
    press("Sunday");
    expect(latest().window).toEqual({ days: [0, 1, 2, 3, 4], opens: 0, closes: 1440, zone_field: null });
    type("Between", "09:00");
    type(/^and, by/, "17:30");
    expect(latest().window).toMatchObject({ opens: 540, closes: 1050 });
    type("Between", "00:00");
    type(/^and, by/, "00:00");
    press("Sunday");
    press("Saturday");
    expect(latest().window).toBeNull();
  });

  it("keeps one day at least, and what closes before it opens is said and not kept", () => {
    const { latest, edits } = edit({ window: { days: [2], opens: 540, closes: 600, zone_field: null } });
    press("Wednesday");
    expect(edits).toEqual([]);
    type(/^and, by/, "08:00");
    expect(screen.getByText("It must close later than it opens.")).toBeTruthy();
    expect(latest().window).toMatchObject({ opens: 540, closes: 600 });
  });

  it("goes by each reader’s clock where a field has it and there is a window", () => {
    const { latest } = edit();
    const whose = () => screen.getByLabelText("By whose clock") as HTMLSelectElement;
    expect(whose().disabled).toBe(true);
    press("Sunday");
    type("By whose clock", "clock");
    expect(latest().window).toMatchObject({ days: [0, 1, 2, 3, 4, 5], zone_field: "clock" });
    expect(screen.getByText(/Whoever is asleep then is passed over/)).toBeTruthy();
    // All of the week is no window, and then there is nothing to go by a clock.
    press("Sunday");
    expect(latest().window).toBeNull();
    expect(whose().value).toBe("");
  });

  it("says a gap in minutes or seconds, whichever one chose", () => {
    const { latest } = edit();
    expect((screen.getByLabelText("Every") as HTMLInputElement).value).toBe("1");
    type("Every", "15");
    expect(latest().gap_seconds).toBe(900);
    type("Unit of the gap", "1");
    expect((screen.getByLabelText("Every") as HTMLInputElement).value).toBe("900");
    type("Every", "120");
    expect(latest().gap_seconds).toBe(120);
    expect((screen.getByLabelText("Every") as HTMLInputElement).value).toBe("120");
    type("Every", "90");
    type("Unit of the gap", "60");
    expect(latest().gap_seconds).toBe(120);
  });

  it("has a limit or a ramp-up where a number stands, and none where it was emptied", () => {
    const { latest } = edit({ hourly_limit: 200 });
    type("At most an hour", "");
    expect(latest().hourly_limit).toBeNull();
    type("and in 24 h", "1500");
    expect(latest().daily_limit).toBe(1500);
    type("On the first day", "100");
    type("Each day after", "1.5");
    expect(latest().ramp_up).toEqual({ first_day: 100, factor: 1.5 });
    type("On the first day", "");
    expect(latest().ramp_up).toBeNull();
  });

  it("lists quiet dates in order, each once", () => {
    const { latest } = edit();
    for (const day of ["2026-12-25", "2026-12-24", "2026-12-25"]) type("Not on", day);
    expect(latest().quiet_dates).toEqual(["2026-12-24", "2026-12-25"]);
    press("Take away 2026-12-24");
    expect(latest().quiet_dates).toEqual(["2026-12-25"]);
  });
});
