//! Work that takes the processor: off the async threads, without a connection to the database, and
//! each piece in a place of its own. There are as many places as cores. Whoever asks for more than
//! their share waits in a short queue, where everybody takes turns; what is dear never takes all of
//! the places. A computation is told when nobody waits for it any more, and when its time is up.

use std::collections::VecDeque;
use std::convert::Infallible;
use std::num::NonZero;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::thread::available_parallelism;
use std::time::Duration;

use heliant_core::work::Work;
use rocket::Request;
use rocket::request::{FromRequest, Outcome};
use rocket::tokio;
use tokio::select;
use tokio::sync::oneshot;
use tokio::time::sleep;
use tokio_util::sync::CancellationToken;

use crate::front::Waiters;
use crate::guard::Asking;
use crate::problem::ApiError;

/// How much is computed at once, and how long.
#[derive(Clone, Debug)]
pub struct ComputeLimits {
    /// Places: computations at once.
    pub places: usize,
    /// Questions one person or link may have waiting.
    pub waiting_each: usize,
    /// Questions that wait in all.
    pub waiting_all: usize,
    /// How long a question waits for a place.
    pub patience: Duration,
    /// How long something dear goes on before it is told to answer with what it has.
    pub deadline: Duration,
    /// How long something quick may take; what a file may hold keeps it far below.
    pub quick_deadline: Duration,
    /// How long after that its answer is still waited for.
    pub grace: Duration,
}

impl Default for ComputeLimits {
    fn default() -> Self {
        ComputeLimits {
            places: available_parallelism().map_or(1, NonZero::get),
            waiting_each: 32,
            waiting_all: 256,
            patience: Duration::from_secs(8),
            deadline: Duration::from_millis(2500),
            quick_deadline: Duration::from_secs(30),
            grace: Duration::from_millis(1000),
        }
    }
}

impl ComputeLimits {
    /// Places one person may have at once, and places dear questions may have together: all but
    /// one, so that there is always one for somebody else.
    fn share(&self) -> usize {
        self.places.saturating_sub(1).max(1)
    }
}

/// What a question costs, the cheapest first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Cost {
    /// A small job is evaluated: a matter of milliseconds, so it may take the last place too.
    Light,
    /// A job is evaluated once or so: opening, saving, judging a reading.
    Quick,
    /// Many ways are tried: a routing, a budget, the ways to wire a job.
    Dear,
}

/// Largest body of a light question, bytes: a house with its data sheets has half of it.
const LIGHT_BYTES: usize = 64 * 1024;

impl Cost {
    /// What evaluating the job of a body costs.
    pub(crate) fn of_body(text: &str) -> Cost {
        if text.len() <= LIGHT_BYTES { Cost::Light } else { Cost::Quick }
    }
}

/// Who asks: a person or a link, by the name they are signed in with.
type Who = Arc<str>;

/// The places of this server.
pub struct Computing(Arc<Gate>);

struct Gate {
    limits: ComputeLimits,
    state: Mutex<State>,
}

#[derive(Default)]
struct State {
    running: Vec<(Who, Cost)>,
    waiting: VecDeque<Waiting>,
}

struct Waiting {
    who: Who,
    cost: Cost,
    grant: oneshot::Sender<Place>,
}

/// A place that was taken; it is free again once nobody holds it.
#[derive(Clone)]
struct Place(Arc<Held>);

struct Held {
    gate: Arc<Gate>,
    who: Who,
    cost: Cost,
}

impl Drop for Held {
    fn drop(&mut self) {
        let mut state = self.gate.state();
        if let Some(at) =
            state.running.iter().position(|(who, cost)| *who == self.who && *cost == self.cost)
        {
            state.running.swap_remove(at);
        }
        let next = self.gate.next(&mut state);
        drop(state);
        self.gate.grant(next);
    }
}

impl State {
    fn of(&self, who: &Who) -> usize {
        self.running.iter().filter(|(w, _)| w == who).count()
    }

    fn dear(&self) -> usize {
        self.running.iter().filter(|(_, cost)| *cost == Cost::Dear).count()
    }

    /// The question whose turn it is: of whoever has the fewest places, the cheaper one first, then
    /// the longest waiting.
    fn turn(&self, share: usize) -> Option<usize> {
        let may = |w: &Waiting| match w.cost {
            Cost::Light => true,
            Cost::Quick => self.of(&w.who) < share,
            Cost::Dear => self.of(&w.who) < share && self.dear() < share,
        };
        let each = self.waiting.iter().enumerate().filter(|(_, w)| may(w));
        each.min_by_key(|(at, w)| (self.of(&w.who), w.cost, *at)).map(|(at, _)| at)
    }
}

impl Gate {
    fn state(&self) -> MutexGuard<'_, State> {
        // Nothing panics while it is held.
        self.state.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Takes places for those whose turn it is.
    fn next(&self, state: &mut State) -> Vec<Waiting> {
        let mut next = Vec::new();
        while state.running.len() < self.limits.places
            && let Some(at) = state.turn(self.limits.share())
            && let Some(turn) = state.waiting.remove(at)
        {
            state.running.push((Arc::clone(&turn.who), turn.cost));
            next.push(turn);
        }
        next
    }

    /// Tells them, with nothing locked: a place nobody takes is given back.
    fn grant(self: &Arc<Self>, next: Vec<Waiting>) {
        for Waiting { who, cost, grant } in next {
            let _ = grant.send(Place(Arc::new(Held { gate: Arc::clone(self), who, cost })));
        }
    }

    /// Asks for a place.
    fn enter(
        self: &Arc<Self>,
        who: &Who,
        cost: Cost,
    ) -> Result<oneshot::Receiver<Place>, ApiError> {
        let (grant, granted) = oneshot::channel();
        let mut state = self.state();
        state.waiting.retain(|w| !w.grant.is_closed());
        let own = state.waiting.iter().filter(|w| w.who == *who).count();
        if own >= self.limits.waiting_each || state.waiting.len() >= self.limits.waiting_all {
            return Err(self.full());
        }
        state.waiting.push_back(Waiting { who: Arc::clone(who), cost, grant });
        let next = self.next(&mut state);
        drop(state);
        self.grant(next);
        Ok(granted)
    }

    fn full(&self) -> ApiError {
        ApiError::NoPlace { wait_s: self.limits.deadline.as_secs().max(1) }
    }
}

impl Computing {
    /// The places of a server.
    pub fn new(limits: ComputeLimits) -> Self {
        Computing(Arc::new(Gate { limits, state: Mutex::default() }))
    }
}

/// Whoever asks for something to be computed: who they are, and whether they still wait.
pub struct Asker {
    who: Who,
    gone: CancellationToken,
    gate: Arc<Gate>,
}

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Asker {
    type Error = Infallible;

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, Infallible> {
        let who = request.local_cache(Asking::default).0.as_deref().unwrap_or_default();
        let rocket = request.rocket();
        let gone = rocket.state::<Waiters>().and_then(|w| w.of(request.headers()));
        // A server without places computes nothing: there is always one.
        let gate = rocket.state::<Computing>().map(|c| Arc::clone(&c.0));
        let gate = gate.unwrap_or_else(|| Computing::new(ComputeLimits::default()).0);
        Outcome::Success(Asker { who: Arc::from(who), gone: gone.unwrap_or_default(), gate })
    }
}

impl Asker {
    /// Waits for a place.
    ///
    /// # Errors
    /// Where too many wait already, or it takes too long.
    pub(crate) async fn place(&self, cost: Cost) -> Result<Taken<'_>, ApiError> {
        let granted = self.gate.enter(&self.who, cost)?;
        select! {
            place = granted => match place {
                Ok(place) => Ok(Taken { place, asker: self }),
                Err(_) => Err(self.gate.full()),
            },
            () = self.gone.cancelled() => Err(self.gate.full()),
            () = sleep(self.gate.limits.patience) => Err(self.gate.full()),
        }
    }

    /// Computes something short in a place of its own.
    ///
    /// # Errors
    /// As [`place`](Self::place), or as [`run`](Taken::run).
    pub(crate) async fn quick<T: Send + 'static>(
        &self,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, ApiError> {
        self.place(Cost::Quick).await?.run(|_| work()).await
    }
}

/// A place that somebody has.
pub(crate) struct Taken<'a> {
    place: Place,
    asker: &'a Asker,
}

impl Taken<'_> {
    /// Computes in this place. The work is told when nobody waits for it or its time is up; the
    /// place stays taken until it has ended, whether or not its answer is still wanted.
    ///
    /// # Errors
    /// Where it panicked, or did not end in time.
    pub(crate) async fn run<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Work) -> T + Send + 'static,
    ) -> Result<T, ApiError> {
        let limits = &self.asker.gate.limits;
        let (told, place) = (Work::default(), self.place.clone());
        let own = told.clone();
        let mut done = tokio::task::spawn_blocking(move || {
            let found = work(&own);
            drop(place);
            found
        });
        let mut wait = match self.place.0.cost {
            Cost::Light | Cost::Quick => limits.quick_deadline,
            Cost::Dear => limits.deadline,
        };
        for last in [false, true] {
            select! {
                found = &mut done => return found.map_err(|e| ApiError::Internal(e.to_string())),
                () = self.asker.gone.cancelled() => {
                    told.end();
                    return Err(self.asker.gate.full());
                }
                () = sleep(wait) => told.end(),
            }
            if last {
                break;
            }
            wait = limits.grace;
        }
        Err(ApiError::TooMuchWork)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn limits() -> ComputeLimits {
        ComputeLimits {
            places: 2,
            waiting_each: 3,
            waiting_all: 5,
            patience: Duration::from_secs(5),
            deadline: Duration::from_millis(50),
            quick_deadline: Duration::from_secs(5),
            grace: Duration::from_millis(50),
        }
    }

    fn asker(computing: &Computing, who: &str) -> Asker {
        let gate = Arc::clone(&computing.0);
        Asker { who: Arc::from(who), gone: CancellationToken::new(), gate }
    }

    fn waits(granted: &mut oneshot::Receiver<Place>) -> bool {
        matches!(granted.try_recv(), Err(oneshot::error::TryRecvError::Empty))
    }

    #[rocket::async_test]
    async fn nobody_has_all_places_and_everybody_takes_turns() {
        let Computing(gate) = Computing::new(limits());
        let enter = |who: &str, cost| gate.enter(&Arc::from(who), cost).expect("there is room");
        let mut rude: Vec<_> = (0..3).map(|_| enter("rude", Cost::Dear)).collect();
        let first = rude[0].try_recv().expect("a place is free");
        assert!(waits(&mut rude[1]), "the second place is not for the same person");
        let mut other_dear = enter("other", Cost::Dear);
        assert!(waits(&mut other_dear), "nor for anything dear");
        let mut save = enter("other", Cost::Quick);
        let save = save.try_recv().expect("but for a save");
        let mut small = enter("rude", Cost::Light);
        assert!(waits(&mut small), "both are taken");
        drop(first);
        let other_dear = other_dear.try_recv().map(drop);
        assert!(other_dear.is_err(), "whoever has one already comes after who has none");
        // Of one person's the light one is first, and takes the last place too.
        let small = small.try_recv().expect("a place is free");
        assert!(waits(&mut rude[1]));
        drop(small);
        let _second = rude[1].try_recv().expect("its turn");
        drop(save);
        let light = enter("rude", Cost::Light).try_recv();
        assert!(light.is_ok(), "beside the dear one of the same person");
    }

    #[rocket::async_test]
    async fn a_full_queue_says_when_to_come_again() {
        let Computing(gate) = Computing::new(limits());
        let who: Who = Arc::from("rude");
        let held: Vec<_> = (0..4).map(|_| gate.enter(&who, Cost::Dear)).collect();
        assert!(held.iter().all(Result::is_ok), "one runs and three wait");
        let full = gate.enter(&who, Cost::Quick).err();
        assert!(matches!(full, Some(ApiError::NoPlace { wait_s: 1 })), "the fourth does not");
        let other = gate.enter(&Arc::from("other"), Cost::Quick).expect("others do");
        assert!(other.await.is_ok());
        // Who went away leaves room.
        drop(held);
        assert!(gate.enter(&who, Cost::Quick).is_ok());
    }

    #[rocket::async_test]
    async fn time_is_up_and_what_there_is_is_answered() {
        let computing = Computing::new(limits());
        let place = asker(&computing, "a");
        let place = place.place(Cost::Dear).await.expect("a place");
        let rounds = place.run(|work| (0_u64..).take_while(|_| work.goes_on()).count()).await;
        assert!(rounds.is_ok_and(|n| n > 0), "it answers with what it has");
        let deaf = place.run(|_| std::thread::sleep(Duration::from_millis(400))).await;
        assert!(matches!(deaf, Err(ApiError::TooMuchWork)));
    }

    #[rocket::async_test]
    async fn whoever_goes_away_ends_what_is_computed_for_them() {
        let computing = Computing::new(ComputeLimits { deadline: Duration::MAX, ..limits() });
        let own = asker(&computing, "a");
        let place = own.place(Cost::Dear).await.expect("a place");
        let (began, begun) = oneshot::channel();
        let (ends, ended) = oneshot::channel();
        let gone = own.gone.clone();
        tokio::spawn(async move {
            let _ = begun.await;
            gone.cancel();
        });
        let left = place.run(move |work| {
            let _ = began.send(());
            while work.goes_on() {}
            let _ = ends.send(());
        });
        assert!(left.await.is_err());
        ended.await.expect("the thread was told");
        // Whoever waits in the queue leaves it.
        assert!(own.place(Cost::Quick).await.is_err());
    }
}
