//! What stands before Rocket and keeps its connections to their time. Rocket gives no hold on its
//! sockets, so it listens on loopback only, and this hands requests on to it: each once its head is
//! whole, over a connection that is opened then. Whoever says nothing, says it too slowly or does
//! not read is dropped here, and has cost the application nothing.

use std::collections::HashMap;
use std::io;
use std::net::{IpAddr, Ipv4Addr};
use std::pin::{Pin, pin};
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex as StdMutex, PoisonError};
use std::task::{Context, Poll};
use std::time::Duration;

use http_body_util::{Either, Full};
use hyper::body::{Bytes, Incoming};
use hyper::client::conn::http1::{SendRequest, handshake};
use hyper::header::{CONNECTION, CONTENT_TYPE, EXPECT, HeaderName, HeaderValue, TRANSFER_ENCODING};
use hyper::server::conn::http1;
use hyper::service::service_fn;
use hyper::{Request, Response, StatusCode, Version};
use hyper_util::rt::{TokioIo, TokioTimer};
use rocket::Shutdown;
use rocket::fairing::AdHoc;
use rocket::http::HeaderMap;
use tokio::io::{AsyncRead, AsyncWrite, ReadBuf};
use tokio::net::{TcpListener, TcpStream};
use tokio::select;
use tokio::sync::{Mutex, Semaphore, oneshot};
use tokio::task::JoinSet;
use tokio::time::{sleep, timeout};
use tokio_util::sync::CancellationToken;

use crate::Settings;
use crate::problem::ApiError;

/// How long a connection may take, and how many there may be.
#[derive(Clone, Debug)]
pub struct Limits {
    /// From when a request may begin until its head is whole; also how long a connection is kept
    /// that asks nothing more.
    pub head: Duration,
    /// How long a connection is kept on which not a byte moves, either way: a caller that stopped
    /// sending or reading. It is looked at as often, so it may be twice as long. The live updates
    /// say something every 30 s.
    pub still: Duration,
    /// Bytes of the head of a request.
    pub head_bytes: usize,
    /// Connections at once; those beyond wait in the system's queue.
    pub most: u32,
}

impl Default for Limits {
    fn default() -> Self {
        Limits {
            head: Duration::from_secs(20),
            still: Duration::from_secs(60),
            head_bytes: 64 * 1024,
            most: 16_384,
        }
    }
}

/// How long answers that are under way have to get out once the application has ended.
const GRACE: Duration = Duration::from_secs(1);

type Refused = Box<dyn std::error::Error + Send + Sync>;
type Answer = Response<Either<Incoming, Full<Bytes>>>;

/// The front of one server.
#[derive(Clone, Debug)]
pub struct Front {
    /// Its limits.
    pub limits: Limits,
    /// Header in which a proxy before the front tells it the caller's address; without one it would
    /// be anybody's word.
    proxy: Option<HeaderName>,
    /// Header in which it tells Rocket the caller's address. Nobody can guess it, so that nobody
    /// who gets to Rocket past the front can say where they come from.
    told: HeaderName,
    /// The requests that are handed on, and whether their callers are still there.
    waiters: Waiters,
}

/// The requests that somebody waits for. Rocket goes on with a request whose caller has gone, so
/// the front, which sees them go, says so here.
#[derive(Clone, Debug)]
pub struct Waiters {
    /// Header in which a request carries its number; as hard to guess as the caller's.
    header: HeaderName,
    waiting: Arc<StdMutex<Waiting>>,
}

#[derive(Debug, Default)]
struct Waiting {
    last: u64,
    gone: HashMap<u64, CancellationToken>,
}

/// A request while its caller waits; dropped with the connection, or once it is answered.
struct Waits<'a> {
    waiters: &'a Waiters,
    n: u64,
}

impl Waiters {
    fn begin(&self) -> Waits<'_> {
        let mut waiting = self.waiting.lock().unwrap_or_else(PoisonError::into_inner);
        waiting.last += 1;
        let n = waiting.last;
        waiting.gone.insert(n, CancellationToken::new());
        Waits { waiters: self, n }
    }

    /// What is cancelled when the caller of a request goes away.
    pub(crate) fn of(&self, headers: &HeaderMap<'_>) -> Option<CancellationToken> {
        let n: u64 = headers.get_one(self.header.as_str())?.parse().ok()?;
        let waiting = self.waiting.lock().unwrap_or_else(PoisonError::into_inner);
        // One that is not there has gone before it was asked after.
        let gone = waiting.gone.get(&n).cloned();
        Some(gone.unwrap_or_else(|| {
            let gone = CancellationToken::new();
            gone.cancel();
            gone
        }))
    }
}

impl Drop for Waits<'_> {
    fn drop(&mut self) {
        let mut waiting = self.waiters.waiting.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(gone) = waiting.gone.remove(&self.n) {
            gone.cancel();
        }
    }
}

impl Front {
    /// A front with the usual limits.
    ///
    /// # Errors
    /// Where `proxy` is no name of a header.
    pub fn new(proxy: Option<&str>) -> Result<Front, String> {
        let name = |name: &str| {
            HeaderName::try_from(name).map_err(|_| format!("`{name}` is no name of a header"))
        };
        let own = uuid::Uuid::new_v4().simple().to_string();
        let told = name(&format!("x-caller-{own}"))?;
        let waiters = Waiters { header: name(&format!("x-waits-{own}"))?, waiting: Arc::default() };
        Ok(Front { limits: Limits::default(), proxy: proxy.map(name).transpose()?, told, waiters })
    }

    /// Serves the application on `listener` until it is told to end.
    ///
    /// # Errors
    /// Where the application does not start.
    pub async fn launch(
        self,
        settings: Settings,
        listener: std::net::TcpListener,
    ) -> Result<(), String> {
        listener.set_nonblocking(true).map_err(|e| e.to_string())?;
        let listener = TcpListener::from_std(listener).map_err(|e| e.to_string())?;
        let (says, port) = oneshot::channel();
        let rocket = crate::rocket(Settings { ip_header: Some(self.told.to_string()), ..settings })
            .manage(self.waiters.clone())
            .attach(AdHoc::on_liftoff("front", |rocket| {
                // Nobody listens only where the front is gone already.
                let _ = says.send(rocket.config().port);
                Box::pin(async {})
            }));
        let rocket = rocket.ignite().await.map_err(|e| e.to_string())?;
        let end = rocket.shutdown();
        let front = tokio::spawn(async move {
            if let Ok(port) = port.await {
                self.serve(listener, port, end).await;
            }
        });
        let launched = rocket.launch().await.map(|_| ()).map_err(|e| e.to_string());
        // Whoever does not read his answer by then has had his time.
        let _ = timeout(GRACE, front).await;
        launched
    }

    /// Accepts and hands on to Rocket's own port until the end; then waits for what is under way.
    async fn serve(self, listener: TcpListener, port: u16, end: Shutdown) {
        let most = self.limits.most;
        let room = Arc::new(Semaphore::new(most as usize));
        let front = Arc::new(self);
        loop {
            let accepted = async {
                let place = Arc::clone(&room).acquire_owned().await;
                (place, listener.accept().await)
            };
            let (place, accepted) = select! {
                accepted = accepted => accepted,
                () = end.clone() => break,
            };
            match accepted {
                Ok((stream, caller)) => {
                    let (front, end) = (Arc::clone(&front), end.clone());
                    tokio::spawn(async move {
                        front.connection(stream, caller.ip(), port, end).await;
                        drop(place);
                    });
                }
                Err(error) => {
                    // Out of open files, say: connections that end make room.
                    tracing::warn!(%error, "a connection was not accepted");
                    sleep(Duration::from_millis(50)).await;
                }
            }
        }
        drop(listener);
        let _ = room.acquire_many(most).await;
    }

    /// One connection, until it ends or breaks a limit.
    async fn connection(&self, stream: TcpStream, caller: IpAddr, port: u16, end: Shutdown) {
        // Without it answers are only slower.
        let _ = stream.set_nodelay(true);
        let moved = Arc::new(AtomicU64::new(0));
        let io = TokioIo::new(Moving { stream, moved: Arc::clone(&moved) });
        let behind = Mutex::new(None);
        let service = service_fn(|request| self.hand_on(request, caller, port, &behind));
        let mut connection = pin!(
            http1::Builder::new()
                .timer(TokioTimer::new())
                .header_read_timeout(self.limits.head)
                .max_buf_size(self.limits.head_bytes)
                .preserve_header_case(true)
                .serve_connection(io, service)
        );
        let mut end = pin!(end);
        let mut ending = false;
        let mut before = 0;
        loop {
            select! {
                // What went wrong is the caller's own affair: they went away or broke a limit.
                _ = connection.as_mut() => return,
                () = &mut end, if !ending => {
                    ending = true;
                    connection.as_mut().graceful_shutdown();
                }
                () = sleep(self.limits.still) => {
                    let now = moved.load(Ordering::Relaxed);
                    if now == before {
                        return;
                    }
                    before = now;
                }
            }
        }
    }

    /// Asks Rocket, over the connection kept for this caller's one.
    async fn hand_on(
        &self,
        mut request: Request<Incoming>,
        caller: IpAddr,
        port: u16,
        behind: &Mutex<Option<Behind>>,
    ) -> Result<Answer, Refused> {
        let said = self.proxy.as_ref().and_then(|name| request.headers().get(name));
        let said = said.and_then(|v| v.to_str().ok()).and_then(|v| v.trim().parse::<IpAddr>().ok());
        let address = HeaderValue::try_from(said.unwrap_or(caller).to_string())?;
        *request.version_mut() = Version::HTTP_11;
        let headers = request.headers_mut();
        // They are of this connection; the one behind has its own.
        for own in [CONNECTION, EXPECT, TRANSFER_ENCODING] {
            headers.remove(own);
        }
        headers.insert(&self.told, address);
        // Nothing here is a form: one that names another method in its body is not to have it.
        if headers.get(CONTENT_TYPE).is_some_and(is_form) {
            return refused(ApiError::Form);
        }
        let waits = self.waiters.begin();
        headers.insert(&self.waiters.header, HeaderValue::from(waits.n));
        let mut kept = behind.lock().await;
        let ready = match kept.take() {
            Some(mut kept) => kept.sender.ready().await.is_ok().then_some(kept),
            None => None,
        };
        let mut ready = match ready {
            Some(ready) => ready,
            None => match Behind::open(port).await {
                Ok(opened) => opened,
                Err(error) => {
                    tracing::warn!(%error, "a request was not handed on");
                    return refused(ApiError::Busy);
                }
            },
        };
        // Where this fails nobody knows what became of the request: there is no answer to give.
        let mut answer = ready.sender.send_request(request).await?;
        drop(waits);
        *kept = Some(ready);
        for own in [CONNECTION, TRANSFER_ENCODING] {
            answer.headers_mut().remove(own);
        }
        Ok(answer.map(Either::Left))
    }
}

/// A connection to Rocket; it ends with its owner.
struct Behind {
    sender: SendRequest<Incoming>,
    _task: JoinSet<()>,
}

impl Behind {
    async fn open(port: u16) -> Result<Behind, Refused> {
        let stream = TcpStream::connect((Ipv4Addr::LOCALHOST, port)).await?;
        stream.set_nodelay(true)?;
        let (sender, connection) = handshake(TokioIo::new(stream)).await?;
        let mut task = JoinSet::new();
        // Its error is told by the answer that does not come.
        task.spawn(async { drop(connection.await) });
        Ok(Behind { sender, _task: task })
    }
}

/// Whether a body is a form, as a browser sends one: with any parameters behind it.
fn is_form(kind: &HeaderValue) -> bool {
    let kind = kind.as_bytes().trim_ascii_start();
    let form = b"application/x-www-form-urlencoded";
    kind.get(..form.len()).is_some_and(|own| own.eq_ignore_ascii_case(form))
}

/// What is answered here: Rocket cannot be reached, since it is out of room or about to end; or is
/// not to see the request.
fn refused(error: ApiError) -> Result<Answer, Refused> {
    let status = StatusCode::from_u16(error.status().code)?;
    let text = serde_json::to_vec(&error.body())?;
    let mut answer = Response::new(Either::Right(Full::from(text)));
    *answer.status_mut() = status;
    let problem = HeaderValue::from_static("application/problem+json");
    answer.headers_mut().insert(CONTENT_TYPE, problem);
    Ok(answer)
}

/// A connection that counts the bytes that move over it.
struct Moving {
    stream: TcpStream,
    moved: Arc<AtomicU64>,
}

impl Moving {
    fn count(&self, n: usize) {
        self.moved.fetch_add(n as u64, Ordering::Relaxed);
    }
}

impl AsyncRead for Moving {
    fn poll_read(
        mut self: Pin<&mut Self>,
        cx: &mut Context<'_>,
        buffer: &mut ReadBuf<'_>,
    ) -> Poll<io::Result<()>> {
        let before = buffer.filled().len();
        let polled = Pin::new(&mut self.stream).poll_read(cx, buffer);
        self.count(buffer.filled().len() - before);
        polled
    }
}

impl AsyncWrite for Moving {
    fn poll_write(
        mut self: Pin<&mut Self>,
        cx: &mut Context<'_>,
        bytes: &[u8],
    ) -> Poll<io::Result<usize>> {
        let polled = Pin::new(&mut self.stream).poll_write(cx, bytes);
        if let Poll::Ready(Ok(n)) = &polled {
            self.count(*n);
        }
        polled
    }

    fn poll_flush(mut self: Pin<&mut Self>, cx: &mut Context<'_>) -> Poll<io::Result<()>> {
        Pin::new(&mut self.stream).poll_flush(cx)
    }

    fn poll_shutdown(mut self: Pin<&mut Self>, cx: &mut Context<'_>) -> Poll<io::Result<()>> {
        Pin::new(&mut self.stream).poll_shutdown(cx)
    }

    fn poll_write_vectored(
        mut self: Pin<&mut Self>,
        cx: &mut Context<'_>,
        parts: &[io::IoSlice<'_>],
    ) -> Poll<io::Result<usize>> {
        let polled = Pin::new(&mut self.stream).poll_write_vectored(cx, parts);
        if let Poll::Ready(Ok(n)) = &polled {
            self.count(*n);
        }
        polled
    }

    fn is_write_vectored(&self) -> bool {
        self.stream.is_write_vectored()
    }
}
