import { expect, it } from "vitest";
import { differingKeys, takenFrom } from "./merging";

const ADA = { id: 1, record: { first_name: "Ada", town: "Skarn", pledge: { amount: "3", currency: "EUR" } } };
const ADELE = { id: 2, record: { first_name: "Ada", town: "Marlby", school: "Gossan" } };

it("shows the fields in which they differ, blank ones too", () => {
  expect(differingKeys([ADA, ADELE])).toEqual(["town", "pledge", "school"]);
  expect(differingKeys([ADA, { ...ADA, id: 3 }])).toEqual([]);
});

it("takes what was chosen, else the kept one's value, else the first that is there", () => {
  const people = [ADA, ADELE];
  expect(takenFrom(people, 2, {}, "town")).toBe(2);
  expect(takenFrom(people, 2, {}, "pledge")).toBe(1);
  expect(takenFrom(people, 2, { town: 1 }, "town")).toBe(1);
  expect(takenFrom(people, 2, {}, "nothing")).toBeUndefined();
});
