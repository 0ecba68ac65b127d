// @vitest-environment node
import { expect, it } from "vitest";
import type { Case } from "../api/client";
import type { Ask } from "./told";
import { variantsOf } from "./variants";

const CASE = {
  restoration: { technique: "oblique", composites: [{ name: "body" }], light: { name: "A" } },
  stock: [
    { kind: "cement", name: "x" },
    { kind: "cement", name: "y" },
    { kind: "wedge", name: "z" },
  ],
} as unknown as Case;
const PATH = "restoration.technique";

function named(name: string) {
  return { name, case_part: { name } };
}

function names(path: string, by: "answer" | "light" | "material", ask?: Partial<Ask>) {
  const asked = ask && ({ path, name: "", kind: "choice", ...ask } as Ask);
  const ways = [named("A"), named("B")];
  return variantsOf({ path, name: "", by }, CASE, asked, ways, [named("body"), named("enamel")]);
}

it("varies an answer, the light or what it is built of, and knows its own way", () => {
  const options = ["flat", "oblique"].map((value) => ({ value, name: value, title: "" }));
  const techniques = names(PATH, "answer", { options });
  expect(techniques.map((v) => [v.name, v.isOwn])).toEqual([
    ["flat", false],
    ["oblique", true],
  ]);
  expect(techniques[1]?.data).toBe(CASE);
  expect(techniques[0]?.data.restoration).toMatchObject({
    technique: "flat",
    light: { name: "A" },
  });
  expect(names("restoration.light", "light").map((v) => v.isOwn)).toEqual([true, false]);
  const [own, other] = names("restoration.composites", "material");
  expect([own?.isOwn, other?.isOwn]).toEqual([true, false]);
  expect(other?.value).toEqual([{ name: "enamel" }]);
});

it("takes what stands in stock for a question that is answered from there", () => {
  const cements = names("restoration.cement", "answer", { stock: ["cement"] });
  expect(cements.map((v) => v.value)).toEqual(["x", "y"]);
  expect(names("restoration.cement", "answer")).toEqual([]);
});
