//! Passes over a job, and what they leave for one another.

use std::any::{Any, TypeId, type_name};
use std::collections::HashMap;

use crate::figure::Sheet;
use crate::job::{Job, Reading};
use crate::library::Library;

/// What passes left so far, by type.
#[derive(Default)]
pub struct Findings(HashMap<TypeId, Box<dyn Any + Send>>);

impl Findings {
    fn put<T: Send + 'static>(&mut self, found: T) {
        self.0.insert(TypeId::of::<T>(), Box::new(found));
    }

    /// What a pass left.
    ///
    /// # Panics
    /// Where no pass before this one left it: the pass that asks does not name it as a need.
    pub fn get<T: 'static>(&self) -> &T {
        let found = self.0.get(&TypeId::of::<T>()).and_then(|f| f.downcast_ref());
        found.unwrap_or_else(|| panic!("{} is not there: name it as a need", type_name::<T>()))
    }

    /// What a pass left, to be kept; the default where there was no such pass.
    pub fn take<T: Default + 'static>(&mut self) -> T {
        let found = self.0.remove(&TypeId::of::<T>()).and_then(|f| f.downcast().ok());
        found.map_or_else(T::default, |f| *f)
    }
}

/// What a pass has before it: the job, and what the passes before it left.
pub struct Bench<'a> {
    /// The job.
    pub job: &'a Job,
    /// Its data sheets.
    pub library: &'a Library,
    /// Readings, oldest first.
    pub readings: &'a [Reading],
    /// What other passes left.
    pub found: Findings,
}

/// Something a pass needs of another.
#[derive(Clone, Copy, Debug)]
pub struct Need {
    id: TypeId,
    name: &'static str,
}

/// The need for what a pass leaves as `T`.
pub fn need<T: 'static>() -> Need {
    Need { id: TypeId::of::<T>(), name: type_name::<T>() }
}

type Run = Box<dyn Fn(&mut Bench, &mut Sheet) + Send + Sync>;

/// A pass over a job.
pub struct Pass {
    /// Its name.
    pub name: &'static str,
    needs: Vec<Need>,
    gives: Need,
    run: Run,
}

impl Pass {
    pub(super) fn new<T: Send + 'static>(
        name: &'static str,
        needs: &[Need],
        run: fn(&Bench, &mut Sheet) -> T,
    ) -> Self {
        let run: Run = Box::new(move |bench, sheet| {
            let found = run(bench, sheet);
            bench.found.put(found);
        });
        Pass { name, needs: needs.to_vec(), gives: need::<T>(), run }
    }

    /// Runs it.
    pub fn run(&self, bench: &mut Bench, sheet: &mut Sheet) {
        (self.run)(bench, sheet);
    }
}

/// Orders passes so that each comes after what it needs, else as they were registered.
pub(super) fn settle(passes: &mut Vec<Pass>) {
    let mut waiting = std::mem::take(passes);
    while !waiting.is_empty() {
        let given = |n: &Need| passes.iter().any(|p: &Pass| p.gives.id == n.id);
        let Some(next) = waiting.iter().position(|p| p.needs.iter().all(given)) else {
            let missing = |p: &Pass| {
                let names: Vec<_> = p.needs.iter().filter(|n| !given(n)).map(|n| n.name).collect();
                format!("{} waits for {}", p.name, names.join(", "))
            };
            panic!("{}", waiting.iter().map(missing).collect::<Vec<_>>().join("; "));
        };
        passes.push(waiting.remove(next));
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::figure::Subject;
    use crate::school::School;

    #[derive(Default)]
    struct First(u32);
    struct Second(u32);

    fn first(_: &Bench, _: &mut Sheet) -> First {
        First(20)
    }

    fn second(bench: &Bench, _: &mut Sheet) -> Second {
        Second(bench.found.get::<First>().0 + 1)
    }

    #[test]
    fn a_pass_runs_after_what_it_needs_however_they_are_registered() {
        let mut passes =
            vec![Pass::new("second", &[need::<First>()], second), Pass::new("first", &[], first)];
        settle(&mut passes);
        assert_eq!(passes.iter().map(|p| p.name).collect::<Vec<_>>(), ["first", "second"]);
        let job = Job::new("x", School::Na);
        let library = Library::default();
        let mut bench =
            Bench { job: &job, library: &library, readings: &[], found: Findings::default() };
        let mut sheet = Sheet::new(School::Na, Subject::Site);
        for pass in &passes {
            pass.run(&mut bench, &mut sheet);
        }
        assert_eq!(bench.found.get::<Second>().0, 21);
        assert_eq!(bench.found.take::<First>().0, 20);
        assert_eq!(bench.found.take::<First>().0, 0, "taken is gone");
    }

    #[test]
    #[should_panic(expected = "second waits for")]
    fn a_need_nobody_meets_is_named() {
        settle(&mut vec![Pass::new("second", &[need::<First>()], second)]);
    }
}
