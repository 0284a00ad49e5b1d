import { expect, test } from "vitest";
import {
  clockOf,
  DAY_MINUTES,
  domainOf,
  evenly,
  minutesOf,
  PACE_WORDS,
  paceOf,
  placeOf,
  samePace,
  secondsAt,
  windowKept,
  windowShown,
  zoneFields,
} from "./pace";

const PLAIN = paceOf({ batch_size: 50, gap_seconds: 60 });

test("a pace as it is told is whole, and says the same as itself", () => {
  expect(PLAIN).toMatchObject({ hourly_limit: null, window: null, quiet_dates: [], brake: null });
  expect(samePace(PLAIN, paceOf({ ...PLAIN }))).toBe(true);
  expect(
    samePace(PLAIN, {
      ...PLAIN,
      brake: { last: 200, bounce_percent: 5, refused_percent: null, complaint_percent: null },
    }),
  ).toBe(false);
});

test("a window that is always open is none, and the other way round", () => {
  expect(windowKept(windowShown(null))).toBeNull();
  const office = { days: [4, 0, 2], opens: 540, closes: 1020, zone_field: null };
  expect(windowKept(office)).toEqual({ ...office, days: [0, 2, 4] });
  expect(windowKept({ ...windowShown(null), opens: 1 })).toEqual({
    days: [0, 1, 2, 3, 4, 5, 6],
    opens: 1,
    closes: DAY_MINUTES,
    zone_field: null,
  });
});

test("clock times go to minutes and back", () => {
  for (const minutes of [0, 1, 540, 1439]) expect(minutesOf(clockOf(minutes))).toBe(minutes);
  expect(clockOf(DAY_MINUTES)).toBe("00:00");
  for (const wrong of ["", "24:00", "9", "09:0", "x"]) expect(minutesOf(wrong)).toBeUndefined();
});

test("a domain is taken as people write it", () => {
  expect(domainOf(" @QuartzMail.example ")).toBe("quartzmail.example");
  for (const wrong of ["", "quartzmail", "a b.example", "x@y.example"])
    expect(domainOf(wrong)).toBeUndefined();
});

test("what differs is said in words", () => {
  expect(PACE_WORDS.window.say({ days: [0, 1], opens: 540, closes: DAY_MINUTES, zone_field: null })).toBe(
    "Mo Tu 09:00–24:00",
  );
  expect(PACE_WORDS.ramp_up.say({ first_day: 1200, factor: 1.5 })).toBe(
    "1,200 on the first day, 1.5 times each day",
  );
});

test.each([1, 2, 30, 59, 60, 61, 900, 12_345, 1_000_000])(
  "%i people are spread evenly, within the time",
  (people) => {
    for (const hours of [1, 4, 72]) {
      const { batch_size: size, gap_seconds: gap } = evenly(people, hours);
      const batches = Math.ceil(people / size);
      const last = (batches - 1) * gap;
      expect(last).toBeLessThan(hours * 3600);
      // All of the time is used: but for what a batch a minute, or a whole number in each, leaves over.
      if (batches > 1) expect(last + gap).toBeGreaterThan(hours * 3600 - batches);
    }
  },
);

test("the slider goes from a minute to thirty days, and back to where it was", () => {
  expect([secondsAt(0), secondsAt(100)]).toEqual([60, 30 * 86_400]);
  for (const place of [0, 17, 50, 83, 100]) expect(placeOf(secondsAt(place))).toBeCloseTo(place, 0);
  expect([placeOf(1), placeOf(10 ** 9)]).toEqual([0, 100]);
});

test("finds the fields that hold time zones by what stands in them", () => {
  const field = (key: string, ...samples: string[]) => ({ key, label: key, samples });
  const found = zoneFields([
    field("town", "Skarn"),
    field("clock", "Europe/London"),
    field("either", "yes/no"),
  ]);
  expect(found.map((one) => one.key)).toEqual(["clock"]);
});
