//! What was reckoned, kept until what it was reckoned from changes: many look at the same page, and the team of thousands of drawings takes
//! seconds to reckon.
//!
//! How: one reckoning at a time for what is asked; whoever asks meanwhile waits for it. A mark says whether anything has changed. Limits:
//! while drawings are coming in and reckoning takes long, what is given may be some seconds old.

use std::{
    collections::HashMap,
    sync::{Arc, Mutex, PoisonError},
    time::{Duration, Instant},
};

use eddymist_check::team::{By, Entry, TeamLook};
use eddymist_store::model::GuideView;

use crate::problem::Answer;

/// The drawings that were asked for, with their guide.
pub struct Looked {
    pub guide: GuideView,
    pub entries: Vec<Entry>,
    pub by: By,
    pub all: Vec<Entry>,
}

/// The drawings that were asked for, and what they say of the team.
pub struct Seen {
    pub looked: Looked,
    pub look: TeamLook,
}

/// So many are kept.
const MOST: usize = 24;
/// What took less is reckoned anew whenever its mark has changed.
const QUICK: Duration = Duration::from_millis(400);
/// What took longer is left as it was for so many times as long, and no longer than this.
const TIMES: u32 = 5;
const BEHIND: Duration = Duration::from_secs(20);

struct Reckoned<M, T> {
    mark: M,
    done: Instant,
    took: Duration,
    what: T,
}

type Slot<M, T> = Arc<tokio::sync::Mutex<Option<Reckoned<M, T>>>>;

pub struct Kept<M, T>(Mutex<HashMap<String, Slot<M, T>>>);

impl<M, T> Default for Kept<M, T> {
    fn default() -> Self {
        Self(Mutex::default())
    }
}

impl<M: PartialEq, T: Clone> Kept<M, T> {
    fn slot(&self, key: String) -> Slot<M, T> {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if all.len() >= MOST && !all.contains_key(&key) {
            all.clear();
        }
        all.entry(key).or_default().clone()
    }

    /// What goes by a key, as it was reckoned or anew.
    pub async fn get(&self, key: String, mark: impl Future<Output = Answer<M>>, reckon: impl Future<Output = Answer<T>>) -> Answer<T> {
        let slot = self.slot(key);
        let mut kept = slot.lock().await;
        let mark = mark.await?;
        if let Some(k) = kept.as_ref().filter(|k| k.mark == mark || k.took > QUICK && k.done.elapsed() < (TIMES * k.took).min(BEHIND)) {
            return Ok(k.what.clone());
        }
        let start = Instant::now();
        let what = reckon.await?;
        *kept = Some(Reckoned { mark, done: Instant::now(), took: start.elapsed(), what: what.clone() });
        Ok(what)
    }
}

#[cfg(test)]
mod tests {
    use std::sync::atomic::{AtomicU32, Ordering};

    use super::Kept;

    #[tokio::test]
    async fn what_many_ask_at_once_is_reckoned_once_and_again_when_it_has_changed() {
        let (kept, reckoned) = (Kept::<u32, u32>::default(), AtomicU32::new(0));
        let ask = |mark: u32| {
            kept.get("team".into(), async move { Ok(mark) }, async {
                tokio::time::sleep(std::time::Duration::from_millis(20)).await;
                Ok(reckoned.fetch_add(1, Ordering::SeqCst))
            })
        };
        let (a, b, c) = tokio::join!(ask(1), ask(1), ask(1));
        assert_eq!([a.ok(), b.ok(), c.ok()], [Some(0); 3]);
        assert_eq!(ask(2).await.ok(), Some(1));
        assert_eq!(ask(2).await.ok(), Some(1));
        assert_eq!(reckoned.load(Ordering::SeqCst), 2);
    }
}
