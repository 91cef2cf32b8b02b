import { inverters } from "../../model/planning";
import type { StageModule } from "../../shell/stage";
import { Equipment } from "./Equipment";

export const stage: StageModule = {
  key: "equipment",
  at: 20,
  name: () => "Equipment",
  telling: ({ job, library }) => {
    const models = inverters(job).map(
      (i) => library.inverters.find((s) => s.sheet === i.sheet.sheet)?.model ?? i.id,
    );
    if (models.length === 0) return library.micros[0]?.model ?? "no inverter yet";
    return models.length > 2 ? `${String(models.length)} inverters` : models.join(", ");
  },
  safety:
    "The maker's data sheet of the very module and inverter on site goes before every library.",
  Screen: Equipment,
};
