import { expect, it } from "vitest";
import { keyOf } from "./fields";

it("makes a key from a label", () => {
  expect(keyOf("Renews on")).toBe("renews_on");
  expect(keyOf("Größe (cm)")).toBe("gro_e_cm");
  expect(keyOf("Été")).toBe("ete");
  expect(keyOf("2nd visit")).toBe("field_2nd_visit");
  expect(keyOf("岩")).toBe("");
});
