//! The instruments behind the jobs that are practised now.

use std::num::NonZeroUsize;
use std::sync::{Arc, Mutex, PoisonError};

use actix_web::web;
use gradimen_practice::Bench;
use gradimen_store::Worked;
use lru::LruCache;

use crate::errors::Failure;

/// As many as are practised on at once in a room.
const KEPT: NonZeroUsize = NonZeroUsize::new(16).expect("16 is not nought");

/// The instruments behind the jobs that are practised now, each as the last entry seen left it.
#[derive(Debug)]
pub(crate) struct Benches(Mutex<LruCache<i64, (u64, Arc<Bench>)>>);

impl Default for Benches {
    fn default() -> Self {
        Self(Mutex::new(LruCache::new(KEPT)))
    }
}

impl Benches {
    /// The instrument behind a job as it stands; nothing behind a real one.
    pub(crate) async fn of(
        &self,
        id: i64,
        worked: &Arc<Worked>,
    ) -> Result<Option<Arc<Bench>>, Failure> {
        if worked.job.practice().is_none() {
            return Ok(None);
        }
        let seq = worked.job.seq();
        if let Some(bench) = self.kept(id, seq) {
            return Ok(Some(bench));
        }
        let of = Arc::clone(worked);
        // On a thread that answers nobody.
        let made = web::block(move || Bench::of(of.job.entries())).await;
        let made = made.map_err(|error| Failure::Other(error.to_string()))?;
        let made = made.ok_or_else(|| {
            Failure::Other("the instrument of this practice job cannot be made again".to_owned())
        })?;
        let bench = Arc::new(made);
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        kept.put(id, (seq, Arc::clone(&bench)));
        Ok(Some(bench))
    }

    fn kept(&self, id: i64, seq: u64) -> Option<Arc<Bench>> {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let (at, bench) = kept.get(&id)?;
        (*at == seq).then(|| Arc::clone(bench))
    }
}
