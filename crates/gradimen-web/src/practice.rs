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
        let kept = self.kept(id).filter(|(at, _)| *at <= seq);
        if let Some((at, bench)) = &kept
            && *at == seq
        {
            return Ok(Some(Arc::clone(bench)));
        }
        let of = Arc::clone(worked);
        // On a thread that answers nobody; from where it stood last, where that is known.
        let made = web::block(move || {
            let Some((at, before)) = kept else {
                return Bench::of(of.job.entries());
            };
            let mut bench = Bench::clone(&before);
            let since = of.job.entries().iter().filter(|entry| entry.seq > at);
            since.for_each(|entry| bench.then(entry));
            Some(bench)
        });
        let made = made.await;
        let made = made.map_err(|error| Failure::Other(error.to_string()))?;
        let made = made.ok_or_else(|| {
            Failure::Other("the instrument of this practice job cannot be made again".to_owned())
        })?;
        let bench = Arc::new(made);
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        kept.put(id, (seq, Arc::clone(&bench)));
        Ok(Some(bench))
    }

    /// As it was seen last, and after which entry.
    fn kept(&self, id: i64) -> Option<(u64, Arc<Bench>)> {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let (at, bench) = kept.get(&id)?;
        Some((*at, Arc::clone(bench)))
    }
}
