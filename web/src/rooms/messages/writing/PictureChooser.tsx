import type { Schemas } from "../../../api";
import { picturesQuery } from "../queries";
import classes from "./PictureChooser.module.css";
import { UploadChooser } from "./UploadChooser";

/** Upload a picture, or take one that was uploaded before. */
export function PictureChooser({ onPicture }: { onPicture: (picture: Schemas["PictureView"]) => void }) {
  return (
    <div className={classes.choose}>
      <UploadChooser
        to="/api/pictures"
        words="Upload a picture"
        accept="image/*"
        before={picturesQuery}
        keyOf={(one) => one.address}
        show={(one) => (
          <>
            <img src={hereOf(one.address)} alt="" />
            <span>{one.name}</span>
          </>
        )}
        onChosen={onPicture}
      />
    </div>
  );
}

/** Where this browser fetches one of our own pictures, whatever our public address is; undefined for others. */
export function hereOf(address: string): string | undefined {
  return /\/(p\/[0-9a-f]{32}\.(?:png|jpg|gif))$/.exec(address)?.[0];
}
