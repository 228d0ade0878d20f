import { Link } from "react-router";
import { useMe, useLibrary } from "../shared/queries";
import { Nothing, Standing } from "../shared/Standing";
import { moment } from "../shared/time";
import styles from "./LibraryPage.module.css";

export default function LibraryPage() {
  const zone = useMe().data?.zone ?? "UTC";
  return (
    <Standing query={useLibrary()}>
      {(versions) => versions.length === 0 ? <Nothing title="The library is empty">Every file that you add to a bundle, and every version made of it, is kept here.</Nothing> : (
        <section className={styles.page}>
          <h1>Library</h1>
          <p className="soft">Every file and version, the newest first. Search looks into their text, too.</p>
          <ul>
            {versions.map((v) => (
              <li key={v.id} id={`v${v.id}`}>
                <span className={styles.when}>{moment(v.added_at, zone)}</span>
                <div>
                  <a className="mono" href={`/api/versions/${v.id}/content`} download>{v.name}</a>
                  {v.made_from && <p className="soft">made from <span className="mono">{v.made_from}</span></p>}
                </div>
                <span className="soft figures">{v.kind.toUpperCase()}, {v.bytes}</span>
                <div>{v.sent.length === 0 ? <span className="soft">not sent</span> : v.sent.map((s) => <p key={s.number}><Link to={`/desk/${s.assignment_id}`}>{s.text}</Link> <span className="mono soft">{s.number}</span></p>)}</div>
              </li>
            ))}
          </ul>
        </section>
      )}
    </Standing>
  );
}
