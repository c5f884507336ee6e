//! Jobs worked out: folded, estimated and planned, and kept while nothing is added to them.

use std::num::NonZeroUsize;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use gradimen_bench::estimate::Estimate;
use gradimen_bench::export::Summary;
use gradimen_bench::job::Job;
use gradimen_bench::plan::Plan;
use lru::LruCache;

use crate::StoreError;

/// As many jobs as are at hand at once in a large shop, twice over.
const KEPT: NonZeroUsize = NonZeroUsize::new(64).expect("64 is not nought");
/// Longer than any job takes; what takes longer is given up, and the bench goes on.
const BUDGET: Duration = Duration::from_secs(10);

/// A job with all that follows from it.
#[derive(Debug, Clone, PartialEq)]
pub struct Worked {
    /// The instrument it is a visit of.
    pub instrument_id: i64,
    /// Its facts.
    pub job: Arc<Job>,
    /// What is known of the instrument.
    pub known: Estimate,
    /// What to do.
    pub plan: Plan,
}

impl Worked {
    /// Its line in the job list.
    pub fn summary(&self) -> Summary {
        Summary::of(&self.known, &self.plan)
    }
}

/// Works a job out, beside the threads that answer the other requests.
pub(crate) async fn work(job: Job) -> Result<Worked, StoreError> {
    let working = tokio::task::spawn_blocking(move || {
        let job = Arc::new(job);
        let known = Estimate::of(Arc::clone(&job))?;
        let plan = Plan::of(&known);
        Ok(Worked {
            instrument_id: 0,
            job,
            known,
            plan,
        })
    });
    match tokio::time::timeout(BUDGET, working).await {
        Ok(Ok(worked)) => worked,
        Ok(Err(_)) | Err(_) => Err(StoreError::GivenUp(BUDGET)),
    }
}

/// The jobs that were worked out last.
#[derive(Debug, Clone)]
pub(crate) struct Cache(Arc<Mutex<LruCache<i64, Arc<Worked>>>>);

impl Cache {
    pub(crate) fn new() -> Self {
        Self(Arc::new(Mutex::new(LruCache::new(KEPT))))
    }

    /// A job as it stands at an entry, where that is kept.
    pub(crate) fn get(&self, id: i64, seq: u64) -> Option<Arc<Worked>> {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let found = kept.get(&id).filter(|worked| worked.job.seq() == seq);
        found.cloned()
    }

    pub(crate) fn put(&self, id: i64, worked: Worked) -> Arc<Worked> {
        let worked = Arc::new(worked);
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        kept.put(id, Arc::clone(&worked));
        worked
    }
}
