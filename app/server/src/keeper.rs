//! What whoever keeps the machine does: the setup code, accounts that are stuck, productions, and what is swept away.

use std::time::Duration;

use uuid::Uuid;

use crate::{StartError, access::hash_password, state::State};
use eddymist_store::store;

/// Letters and digits that are not taken for one another.
const ALPHABET: &[u8; 32] = b"ABCDEFGHJKLMNPQRSTUVWXYZ23456789";

/// A secret that can be read aloud: so many groups of four, 20 bits each.
pub fn spoken(groups: usize) -> String {
    let (a, b) = (Uuid::new_v4().as_u128(), Uuid::new_v4().as_u128());
    // The middle of an identifier has fixed bits: five bits each from the low 56 of two of them.
    let bits = (a & ((1 << 56) - 1)) << 56 | (b & ((1 << 56) - 1));
    let letter = |k: usize| char::from(ALPHABET[(bits >> (5 * k) & 31) as usize]);
    (0..groups.min(5)).map(|g| (0..4).map(|k| letter(4 * g + k)).collect::<String>()).collect::<Vec<_>>().join("-")
}

/// While there is no member, prints the code that the first one is made with.
pub async fn print_setup_code(state: &State) -> Result<(), StartError> {
    if store::members::count(&state.pool).await? > 0 {
        return Ok(());
    }
    let code = spoken(3);
    store::members::add_setup_code(&state.pool, &store::sha256(code.replace('-', "").as_bytes())).await?;
    println!("Nobody is a member yet. The page makes the first one, with this setup code: {code}");
    Ok(())
}

/// Sweeps once an hour.
pub async fn sweep_hourly(state: State) {
    loop {
        match state.pictures.carry_over().await {
            Ok(0) => {}
            Ok(n) => tracing::info!("{n} pictures were carried from the database into their own store"),
            Err(e) => tracing::warn!("pictures could not be carried into their own store: {e}"),
        }
        match store::keeping::sweep(&state.pictures).await {
            Ok(Some(s)) if s != store::keeping::Swept::default() => tracing::info!("swept {} pictures and {} rows", s.pictures, s.rows),
            Ok(_) => {}
            Err(e) => tracing::warn!("nothing could be swept: {e}"),
        }
        tokio::time::sleep(Duration::from_secs(3600)).await;
    }
}

/// What is done to an account.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MemberAct {
    /// A new password, printed; every sign-in ends, and a disabled account is one again.
    Reset,
    Disable,
    Erase,
}

/// Does it, and says what was done.
pub async fn keep_member(act: MemberAct, email: &str) -> Result<String, StartError> {
    let state = State::connect().await?;
    state.up_to_date().await?;
    let Some((id, name, _)) = store::members::account(&state.pool, email).await? else {
        return Err(StartError::Usage(format!("nobody has the address {email}")));
    };
    let mut tx = state.pool.begin().await?;
    let said = match act {
        MemberAct::Reset => {
            let password = spoken(4);
            store::members::disable(&mut tx, id, false).await?;
            store::members::set_password(&mut tx, id, &hash_password(&password).map_err(StartError::Other)?).await?;
            store::attempts::forget_all(&mut tx, email).await?;
            store::sign_ins::end_others(&mut *tx, id, None).await?;
            format!("{name} signs in with {password} now, and changes it on the page of the account. Every sign-in of theirs has ended.")
        }
        MemberAct::Disable => {
            store::members::disable(&mut tx, id, true).await?;
            store::sign_ins::end_others(&mut *tx, id, None).await?;
            format!("{name} can sign in no more; what they made stays. eddymist member reset {email} lets them in again.")
        }
        MemberAct::Erase => {
            let alone = store::members::only_lead_of(&mut tx, id).await?;
            if !alone.is_empty() {
                return Err(StartError::Usage(format!("{name} is the only lead of {}: make somebody else a lead there first", alone.join(", "))));
            }
            store::members::erase(&mut tx, id).await?;
            format!("{name} is erased: name, address, password and memberships. What they made stays, as a former member's.")
        }
    };
    tx.commit().await?;
    Ok(said)
}

/// Makes a production led by the member of this address, or sets what an existing one may take of the disk.
pub async fn keep_production(name: &str, lead: Option<&str>, quota_gib: Option<f64>) -> Result<String, StartError> {
    let state = State::connect().await?;
    state.up_to_date().await?;
    let mut said = Vec::new();
    let mut tx = state.pool.begin().await?;
    let id = match lead {
        Some(email) => {
            let Some((member, lead, _)) = store::members::account(&state.pool, email).await? else {
                return Err(StartError::Usage(format!("nobody has the address {email}: the lead of a production is a member already")));
            };
            if name.trim().is_empty() {
                return Err(StartError::Usage("the production needs a name".into()));
            }
            said.push(format!("{} is there, led by {lead}.", name.trim()));
            store::members::found_production(&mut tx, name, member).await?
        }
        None => {
            let all = store::members::all_productions(&state.pool).await?;
            let mut of_name = all.iter().filter(|p| p.1 == name);
            match (of_name.next(), of_name.next()) {
                (Some(one), None) => one.0,
                (Some(_), Some(_)) => return Err(StartError::Usage(format!("several productions are called {name}"))),
                _ => {
                    return Err(StartError::Usage(format!(
                        "there is no production {name}; there are {}",
                        all.iter().map(|p| p.1.as_str()).collect::<Vec<_>>().join(", ")
                    )));
                }
            }
        }
    };
    if let Some(gib) = quota_gib {
        if !(0.001..=1e6).contains(&gib) {
            return Err(StartError::Usage(format!("--quota {gib}: expected a number of GiB, such as 50")));
        }
        store::keeping::set_quota(&mut tx, id, (gib * f64::from(1 << 30)) as i64).await?;
        said.push(format!("{} may keep {gib} GiB of pictures.", name.trim()));
    }
    tx.commit().await?;
    Ok(said.join(" "))
}

#[cfg(test)]
mod tests {
    #[test]
    fn a_code_is_read_aloud_and_no_two_are_alike() {
        let codes: std::collections::HashSet<String> = (0..2000).map(|_| super::spoken(3)).collect();
        assert_eq!(codes.len(), 2000);
        assert!(codes.iter().all(|c| c.len() == 14 && c.bytes().all(|b| b == b'-' || super::ALPHABET.contains(&b))));
    }
}
