//! Connections taken: their heads are waited for so long, so many at once, and at the end those that are at something come to its end.

use std::{future::Future, net::SocketAddr, sync::Arc, time::Duration};

use axum::{Extension, Router, body::Body, extract::ConnectInfo, http::Request};
use hyper::body::Incoming;
use hyper_util::{
    rt::{TokioExecutor, TokioIo, TokioTimer},
    server::{conn::auto::Builder, graceful::GracefulShutdown},
    service::TowerToHyperService,
};
use tokio::{net::TcpListener, sync::Semaphore};
use tower::ServiceExt;

/// A request's head is there within this.
const HEAD: Duration = Duration::from_secs(10);
/// What is at something when the process is told to stop has so long to come to its end.
const END: Duration = Duration::from_secs(60);
/// Connections at once.
const MOST: usize = 2000;

/// Serves until it is told to stop, and what had begun then to its end.
pub async fn serve(listener: TcpListener, app: Router, stop: impl Future<Output = ()>) {
    let mut builder = Builder::new(TokioExecutor::new());
    builder.http1().timer(TokioTimer::new()).header_read_timeout(HEAD);
    builder.http2().timer(TokioTimer::new()).keep_alive_interval(Some(HEAD)).max_concurrent_streams(100).max_header_list_size(32 << 10);
    let (builder, graceful, places) = (Arc::new(builder), GracefulShutdown::new(), Arc::new(Semaphore::new(MOST)));
    tokio::pin!(stop);
    loop {
        let place = tokio::select! {
            p = places.clone().acquire_owned() => p,
            () = &mut stop => break,
        };
        let accepted = tokio::select! {
            a = listener.accept() => a,
            () = &mut stop => break,
        };
        let (stream, peer): (_, SocketAddr) = match accepted {
            Ok(a) => a,
            Err(e) => {
                // No more files may be open, or the peer has gone: neither ends the server.
                tracing::warn!("a connection could not be taken: {e}");
                tokio::time::sleep(Duration::from_millis(50)).await;
                continue;
            }
        };
        let _ = stream.set_nodelay(true);
        let service = app.clone().layer(Extension(ConnectInfo(peer))).map_request(|r: Request<Incoming>| r.map(Body::new));
        let (builder, watcher) = (builder.clone(), graceful.watcher());
        tokio::spawn(async move {
            let _place = place;
            let connection = builder.serve_connection(TokioIo::new(stream), TowerToHyperService::new(service));
            // How a connection ends is the peer's affair.
            let _ = watcher.watch(connection).await;
        });
    }
    drop(listener);
    if tokio::time::timeout(END, graceful.shutdown()).await.is_err() {
        tracing::warn!("what was not at its end after {} s is cut off", END.as_secs());
    }
}
