import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { Choice } from "../shell/Choice";
import { Refused } from "../shell/Refused";

type Reader = Schemas["ColorReaderOut"];
type Target = Schemas["ShadeTarget"];
type Held = Schemas["ColorReadIn"]["held"];
type Tile = Schemas["CalibrationIn"]["tile"];

const HELD: { value: Held; name: string }[] = [
  { value: "flat", name: "flat" },
  { value: "tilted", name: "tilted" },
  { value: "over_edge", name: "over the edge" },
];

const TILES: { value: Tile; name: string }[] = [
  { value: "clean", name: "clean" },
  { value: "soiled", name: "soiled" },
  { value: "other", name: "of another" },
];

interface Props {
  zone: NonNullable<Target["zone"]>;
  tooth: string;
  minutesDry: number;
  onRead: (target: Target) => void;
}

/** The practice's color reader, where one is connected: its tile first, then a third of the face, three times. */
export function ReadColor({ zone, tooth, minutesDry, onRead }: Props) {
  const queries = useQueryClient();
  const reader = useQuery({
    queryKey: keys.device("color-reader"),
    queryFn: () => unwrap(client.GET("/api/color-reader")),
  });
  const [held, setHeld] = useState<Held>("flat");
  const [tile, setTile] = useState<Tile>("clean");
  const calibrate = useMutation({
    mutationFn: () => unwrap(client.POST("/api/color-reader/calibration", { body: { tile } })),
    onSuccess: (now: Reader) => queries.setQueryData(keys.device("color-reader"), now),
  });
  const read = useMutation({
    mutationFn: () =>
      unwrap(
        client.POST("/api/color-reader/readings", {
          body: { tooth, zone, held, minutes_dry: minutesDry },
        }),
      ),
    onSuccess: (got) => got.is_steady && onRead(got.target),
    // The tile may not hold any more.
    onError: () => queries.invalidateQueries({ queryKey: keys.device("color-reader") }),
  });
  const got = read.data;
  if (!reader.data?.name) return null;
  return (
    <Box sx={{ mt: 0.75 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.75, alignItems: "center" }}>
        {reader.data.is_calibrated ? (
          <Button variant="outlined" disabled={read.isPending} onClick={() => read.mutate()}>
            Read the {zone} third
          </Button>
        ) : (
          <Button
            variant="outlined"
            disabled={calibrate.isPending}
            onClick={() => calibrate.mutate()}
          >
            Read the white tile
          </Button>
        )}
        {reader.data.is_calibrated ? (
          <Choice label="How the tip is held" value={held} options={HELD} onChange={setHeld} />
        ) : (
          <Choice label="White tile" value={tile} options={TILES} onChange={setTile} />
        )}
      </Box>
      {got && (
        <Box role="status" sx={{ fontSize: 15, fontWeight: 700 }}>
          {got.is_steady
            ? `L* ${got.lab[0]}, a* ${got.lab[1]}, b* ${got.lab[2]}; three readings, ${got.apart_de00.toFixed(1)} dE00 apart`
            : `Read again, tip flat: three readings are ${got.apart_de00.toFixed(1)} dE00 apart, up to ${got.most_apart_de00.toFixed(1)} counts.`}
        </Box>
      )}
      <Box sx={{ fontSize: 14, color: "text.secondary" }}>
        Simulated readings; no tooth is read.
      </Box>
      <Refused error={calibrate.error ?? read.error} />
    </Box>
  );
}
